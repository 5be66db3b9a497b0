"""A simulated bay: crafts with faults in them, people who read them, and what must hold of every answer."""
