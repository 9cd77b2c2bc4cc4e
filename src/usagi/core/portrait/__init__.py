"""How a player plays: counted over solos, set side by side."""
