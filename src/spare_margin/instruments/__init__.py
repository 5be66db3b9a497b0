"""Meters that speak: how each is asked, what it answers, one thread for each; and a stand-in that ships."""
