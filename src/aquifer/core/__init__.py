"""The rules of the job and its computation: numbers and dataclasses in, the same out.

Nothing here knows Django, HTTP or the database (an import contract holds it to that). The layers, lowest first:

- ``vocabulary``, ``units``, ``parameters``: the words, the units and every figure with its source
- ``chemistry``, ``water``, ``usage``: what goes through the heater
- ``sediment``, ``scale``, ``anode``, ``relief_valve``: one phenomenon each, at a given growth rate
- ``learning``: the rate itself, from findings, on a grid, pooled by zone
- ``policy``, ``reasons``, ``judgement``: when a service is due, why, and whether to do it at all
- ``fleet``, ``forecast``: heaters as arrays, one pass over all of them
- ``case``: the open file format in and out
"""

MODEL_VERSION = "0.1.0"
"""Named in every stored forecast; raise it whenever the same inputs would give other figures."""
