"""Years of a heater in a minute: what water, use and care make of it, for whoever has to learn or to be convinced."""
