"""Proof by simulation: a base of heaters whose truth comes from another model family, serviced for years by one
practice or another, and what the forecasts of it were worth. Run by ``./aquifer study``.

- ``truth``: how the simulated heaters really foul, wear and stick; shares no equation with the core
- ``records``: what people write down of it, and how the core is told
- ``practices``: whom each practice sends where, every month
- ``trial``: one practice over some years
- ``score``: whether windows held, and what it cost
- ``report``: tables and plots
"""
