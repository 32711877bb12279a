"""Aquifer: forecasts, plans, guides and records the maintenance of water heaters."""

import os

# The products of a forecast are small: shared out among a processor's cores they wait for each other, up to ten times
# as long as one core takes where another process is busy too. Partitions are what runs side by side. NumPy reads this
# when it is first imported, after this package.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
