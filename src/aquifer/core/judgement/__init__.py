"""What a date alone does not carry: whether to do a thing at all, what instead, and who may decide.

- ``table``: a decision table, its facts and its verdicts
- ``rules``: the tables of the trade, with the sides of each disagreement
- ``instruments``: what a reading means against the heater's plate
- ``on_site``: the tables as answers at a visit bear on them, for a device without a signal
- ``facts``: what a forecast and its findings say, as the tables ask for it
"""

from aquifer.core.judgement.facts import facts_of
from aquifer.core.judgement.on_site import OnSiteRule, PracticeQuestion, on_site_rules, practice_questions
from aquifer.core.judgement.rules import PRACTICE_QUESTIONS, TABLES, followed, judge, lately_lost
from aquifer.core.judgement.table import Facts, Judgement, PracticeOption, Seen, Verdict

__all__ = [
    "PRACTICE_QUESTIONS",
    "TABLES",
    "PracticeQuestion",
    "Facts",
    "Judgement",
    "OnSiteRule",
    "PracticeOption",
    "Seen",
    "Verdict",
    "practice_questions",
    "facts_of",
    "followed",
    "judge",
    "lately_lost",
    "on_site_rules",
]
