"""Where the listener comes from: invented solos, the takes that are made of them, and the nets that learn from those.

Nothing here listens, and nothing here is shipped: instruments come from Debian's and npm's packages (sources.py), and
what leaves is two files of weights. Everything repeats from a seed. docs/listening.md says how to run it.
"""
