"""What the observations say of resistances, sources and loads: every fault, with its weight."""
