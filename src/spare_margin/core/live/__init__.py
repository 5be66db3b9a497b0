"""What a meter shows while it is watched: steady, touching, lifted; events; alarms."""
