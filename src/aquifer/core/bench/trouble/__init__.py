"""A heater with something wrong in it, to find out what; a rig for each way of heating."""
