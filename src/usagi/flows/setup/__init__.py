"""The ground and the instrument: tempo, grid, chart, form, tuning, credits, what is heard in the recording."""
