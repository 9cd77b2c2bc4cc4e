"""Use cases in order: load, ask the core, save. Shared by the api and the commands."""
