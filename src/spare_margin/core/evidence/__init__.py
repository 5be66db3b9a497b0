"""One model behind every verdict: readings change what is known of a craft; all else follows from it."""
