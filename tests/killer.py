"""Run the program and break it at a given step of writing: killed, disk full, or interrupted.

Usage: killer.py kill|full|interrupt STEP WORD...; with STEP 0 only the steps are counted and printed.
"""

from __future__ import annotations

import errno
import os
import signal
import sys

from onomaxis.cli.main import main
from onomaxis.writing.disk import Disk

how, wanted, words = sys.argv[1], int(sys.argv[2]), sys.argv[3:]
count = 0


def step(self: Disk, name: str, relative: str) -> None:
    """Count the step, and fail at the wanted one."""
    global count
    count += 1
    if count != wanted:
        return
    if how == "kill":
        os.kill(os.getpid(), signal.SIGKILL)
    if how == "interrupt":
        raise KeyboardInterrupt
    raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC), os.fspath(self.root / relative))


Disk.step = step
code = main(words)
if wanted == 0:
    print(f"steps: {count}", file=sys.stderr)
sys.exit(code)
