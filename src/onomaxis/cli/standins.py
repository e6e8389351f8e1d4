"""``onomaxis standins``: the stand-ins of a console of services and a developer portal, served on this machine."""

from __future__ import annotations

import argparse
import contextlib
import signal
from pathlib import Path

from onomaxis.cli.output import print_json, tell
from onomaxis.rehearsal.server import ROUTES, OfficeServer
from onomaxis.rehearsal.state import default_folder


def execute(options: argparse.Namespace) -> int:
    """Serve until interrupted; the first line of output is the address."""
    folder = Path(options.state) if options.state else default_folder(Path())
    with OfficeServer(folder, options.port) as server:
        if options.json:
            print_json({"simulated": True, "address": server.address, "routes": list(ROUTES)})
        else:
            print(server.address, flush=True)
            if not options.quiet:
                tell(f"onomaxis: a simulation of a console of services and a developer portal; state in {folder}")
                tell(f"  POST JSON to {', '.join(ROUTES)}. Ctrl-C ends it.")
        signal.signal(signal.SIGTERM, signal.default_int_handler)  # in the background an interrupt may be ignored
        with contextlib.suppress(KeyboardInterrupt):
            server.serve_forever()
    return 0
