"""Drawing up and changing a craft."""
