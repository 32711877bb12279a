"""Aquifer: forecasts, plans, guides and records the maintenance of water heaters."""
