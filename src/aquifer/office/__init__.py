"""How the company is set up: itself, its practice, its people and its crew, as pages read and change them."""
