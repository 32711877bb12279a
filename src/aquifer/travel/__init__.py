"""How long it takes from place to place.

``TravelTimes`` is what the rest of the program knows. What ships is a simulated district's roads; a real service is
put in its place in ``service.times``.
"""
