"""Files that are there whole or not at all: a full disk or a kill leaves no piece under a name that is believed."""

import contextlib
import os
import tempfile
from pathlib import Path

from django.core.files.base import ContentFile
from django.core.files.storage import default_storage


def keep_whole(path: str, data: bytes) -> None:
    """Keep a file under a name made of its content; what is there already whole is left. Raises: OSError."""
    if default_storage.exists(path) and default_storage.size(path) == len(data):
        return
    try:
        where = Path(default_storage.path(path))
    except NotImplementedError:
        # No files of this machine: such a storage takes an object whole by itself. A piece that is there from before is
        # in no way of it.
        if default_storage.exists(path):
            default_storage.delete(path)
        default_storage.save(path, ContentFile(data))
        return
    where.parent.mkdir(parents=True, exist_ok=True)
    handle, part = tempfile.mkstemp(dir=where.parent, prefix=".part-")
    try:
        with os.fdopen(handle, "wb") as target:
            target.write(data)
            target.flush()
            os.fsync(target.fileno())
        os.chmod(part, FILE_MODE)
        os.replace(part, where)
        _written_down(where.parent)
    except BaseException:
        with contextlib.suppress(FileNotFoundError):
            os.unlink(part)
        raise


FILE_MODE = 0o640


def _written_down(folder: Path) -> None:
    """The new name itself is on the disk."""
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
