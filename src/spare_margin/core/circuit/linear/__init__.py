"""The linear part of a craft: its pieces as chains, the equations between them, their solution."""
