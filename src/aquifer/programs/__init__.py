"""Other programs: what they may ask with a token, and what they are told when it happens."""
