"""A practice sign-in provider (OpenID Connect) on loopback, for trying sign-in from elsewhere."""

from __future__ import annotations

import argparse

from ..store.cluster import check_port
from . import say


def run(argv: list[str]) -> int:
    """``./lathe provider [--port N]``"""
    from werkzeug.serving import make_server

    from ..standins.provider import practice_provider

    parser = argparse.ArgumentParser(prog="lathe provider", description=__doc__)
    parser.add_argument("--port", type=int, default=8430, help="port on 127.0.0.1 (default 8430)")
    options = parser.parse_args(argv)
    check_port("127.0.0.1", options.port)
    issuer = f"http://127.0.0.1:{options.port}"
    say(f"LATHE_OIDC_ISSUER={issuer} LATHE_OIDC_CLIENT=lathe LATHE_OIDC_SECRET=practice (Ctrl-C stops it)")
    make_server(
        "127.0.0.1", options.port, practice_provider(issuer, "lathe", "practice"), threaded=True
    ).serve_forever()
    return 0
