"""Bench: heaters that are nobody's, to learn on. Nothing here is kept, and nothing touches a record."""
