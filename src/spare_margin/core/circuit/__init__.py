"""From a craft to volts and amperes: resistances, loads, runs, the solve."""
