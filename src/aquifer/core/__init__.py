"""The rules of the job and its computation: numbers and dataclasses in, the same out.

Nothing here knows Django, HTTP or the database (an import contract holds it to that). The layers, lowest first:

- ``vocabulary``, ``units``, ``parameters``: the words, the units and every figure with its source
- ``chemistry``, ``water``, ``usage``: what goes through the heater
- ``sediment``, ``scale``, ``anode``, ``relief_valve``, ``expansion_tank``, ``tank``: one phenomenon each
- ``learning``: the rate itself, from findings, on a grid, pooled by zone, and what the whole base teaches
- ``policy``, ``upkeep``: when a service is due
- ``fleet``, ``assembly``, ``components``, ``forecast``: heaters as arrays, one pass over all of them
- ``reasons``, ``alternatives``, ``judgement``, ``trace``: why, what else, whether at all, and how it went
- ``case``: the open file format in and out
"""

MODEL_VERSION = "1.7.0"
"""Named in every stored forecast; raise it whenever the same inputs would give other figures."""
