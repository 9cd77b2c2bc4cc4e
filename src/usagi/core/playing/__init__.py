"""The writing as sound and on the screen: when notes are expected, and what a string does to play them."""
