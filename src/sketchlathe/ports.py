"""Ports of loopback."""

from __future__ import annotations

import socket


def free_port() -> int:
    """A port of loopback that nobody uses."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])
