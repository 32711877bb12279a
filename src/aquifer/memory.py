"""Memory that NumPy frees stays with the process."""

import ctypes
import sys

_M_TRIM_THRESHOLD, _M_TOP_PAD, _M_MMAP_THRESHOLD = -1, -2, -3
_MIB = 1024 * 1024


def keep_freed_memory() -> None:
    """Ask the C library to keep what is freed, up to half a GiB, for the next array.

    A forecast makes thousands of arrays of a few MiB. Given back to the system, each new one costs a page fault for
    every 4 KiB, which is more than its arithmetic. Does nothing where the C library is not glibc.
    """
    if not sys.platform.startswith("linux"):
        return
    try:
        mallopt = ctypes.CDLL("libc.so.6").mallopt
    except (OSError, AttributeError):
        return
    mallopt(_M_MMAP_THRESHOLD, 32 * _MIB)
    mallopt(_M_TRIM_THRESHOLD, 512 * _MIB)
    mallopt(_M_TOP_PAD, 64 * _MIB)
