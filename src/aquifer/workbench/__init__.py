"""Bench: heaters that are nobody's, to learn on. What somebody practised is kept; no record is touched."""
