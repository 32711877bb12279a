"""An invented district for trying the program: made by a simulator, written as files, brought in like any other.

The simulator shares no equation with the forecaster, so that the forecasts have something to learn.
"""
