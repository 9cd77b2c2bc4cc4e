"""The commands of `./usagi`."""
