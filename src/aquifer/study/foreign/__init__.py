"""Truths that have nothing to do with the core: no module, constant or centre of its priors is shared.

Each was written before the core was last changed because of it. A truth is a law of growth and of cleaning; ``base``
settles people, eyes and records around it; ``told`` writes down what a company would know; ``held`` holds the core's
windows, and a plain regression's, against what is there.
"""
