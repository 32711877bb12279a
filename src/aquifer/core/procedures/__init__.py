"""Procedures of the trade as data, the state of a heater that their steps change, and the interlock that holds them.

``data`` is read by ``library``, ``calculators.toml`` by ``calculators``; ``interlock`` says what holds a step;
``sequence`` puts a visit together, ``merge`` what several devices tell of one; ``walk`` looks through every way that
one can go, ``reach`` at every state that any order of steps leads to. What a heater and its technician are is told
by plain words, ``facts``, so that the same conditions can be read anywhere, without a signal too.
"""
