"""What a date alone does not carry: whether to do a thing at all, what instead, and who may decide.

- ``table``: a decision table, its facts and its verdicts
- ``rules``: the tables of the trade, with the sides of each disagreement
- ``instruments``: what a reading means against the heater's plate
- ``moment``: the tables as answers at a visit bear on them, for a device without a signal
- ``facts``: what a forecast and its findings say, as the tables ask for it
"""

from aquifer.core.judgement.facts import facts_of
from aquifer.core.judgement.moment import Disagreement, Moment, disagreements, moments
from aquifer.core.judgement.rules import SCHOOLS, TABLES, followed, judge, lately_lost
from aquifer.core.judgement.table import Facts, Judgement, School, Seen, Verdict

__all__ = [
    "SCHOOLS",
    "TABLES",
    "Disagreement",
    "Facts",
    "Judgement",
    "Moment",
    "School",
    "Seen",
    "Verdict",
    "disagreements",
    "facts_of",
    "followed",
    "judge",
    "lately_lost",
    "moments",
]
