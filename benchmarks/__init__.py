"""What is measured, and how: figures for `./usagi bench` and `docs/quality.md`. Nothing here is used by the program."""
