"""What a craft would show: its unknowns, its circuits, how both answer to change."""
