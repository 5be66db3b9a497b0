"""The wire list, the buying list and the quote."""
