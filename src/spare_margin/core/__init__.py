"""The rules and the computation: pure and typed; volts, amperes, ohms, metres, mm2 and degrees C."""
