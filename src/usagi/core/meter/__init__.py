"""Written time: ticks, meters, bars, counting, the grid from ticks to seconds, and feel.

10,080 ticks to the quarter note. Tick 0 is beat 1 of bar 1. Bars and beats number from 1; a pick-up is bar 0 and has
negative ticks. Heard time is a float of seconds of the recording (docs/music.md, Time).
"""
