"""The chord chart: sections of bars, the form they are played in, and the same unrolled over the recording's bars.

A chart is stored folded (`model`), written and read as text (`text`), and asked unrolled (`timeline`): which chord
sounds at a tick, in which key, meter and feel. Facts (meter, key, feel, blues) stand on bars of sections and hold
from there on in the order of the text.
"""
