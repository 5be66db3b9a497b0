"""The meters of this workshop that speak: which there are, and what each shows now."""
