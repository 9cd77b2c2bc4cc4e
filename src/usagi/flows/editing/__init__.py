"""How a document is opened, changed and taken back: one way in for every edit."""
