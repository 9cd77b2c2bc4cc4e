"""What is learnt from a solo, in which order, how fast and how hard it is."""
