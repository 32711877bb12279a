"""From due windows to a season, a week and a day: what is planned, within which bounds, and what it costs.

Knows neither people nor addresses: crews are hours and abilities, places are rows of a table of travel times.
"""
