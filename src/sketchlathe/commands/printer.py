"""Start the Practice printer, a small simulated printer, by itself."""

from __future__ import annotations

import argparse


def run(argv: list[str]) -> int:
    """``./lathe printer [--port N] [--speed S]``"""
    parser = argparse.ArgumentParser(prog="lathe printer", description=__doc__)
    parser.add_argument("--port", type=int, default=8431, help="port on 127.0.0.1 (default 8431)")
    parser.add_argument("--speed", type=float, default=60.0, help="seconds printed in one second (default 60)")
    options = parser.parse_args(argv)
    from ..printer.http import serve

    server = serve(options.port, options.speed)
    try:
        server.serve_forever()
    except KeyboardInterrupt:
        pass
    finally:
        server.server_close()
    return 0
