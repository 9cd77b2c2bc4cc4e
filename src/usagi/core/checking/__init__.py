"""The writing held against itself, and against what is heard."""
