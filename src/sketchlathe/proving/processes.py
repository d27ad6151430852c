"""What runs below a process, by what it is."""

from __future__ import annotations

import contextlib
from pathlib import Path

SORTS = ("web", "supervisor", "consumer", "worker", "forkserver", "other")


def below(root: int) -> dict[str, list[int]]:
    """Process ids below one (and itself), by sort: web processes, geometry workers, the forkservers they come from, the
    consumers of queues and what looks after those.
    """
    children: dict[int, list[int]] = {}
    commands: dict[int, str] = {}
    for entry in Path("/proc").iterdir():
        with contextlib.suppress(OSError, ValueError, IndexError):
            pid = int(entry.name)
            stat = (entry / "stat").read_text().rpartition(") ")[2].split()
            if stat[0] != "Z":
                children.setdefault(int(stat[1]), []).append(pid)
                commands[pid] = (entry / "cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace")
    found: dict[str, list[int]] = {sort: [] for sort in SORTS}

    def walk(pid: int, above: str) -> None:
        command = commands.get(pid, "")
        if "forkserver" in command:
            found["worker" if "forkserver" in above else "forkserver"].append(pid)
        elif "sketchlathe work" in command:
            found["consumer" if "--only" in command else "supervisor"].append(pid)
        elif "sketchlathe serve" in command:
            found["web"].append(pid)
        else:
            found["other"].append(pid)
        for child in children.get(pid, ()):
            walk(child, command)

    walk(root, "")
    return {sort: pids for sort, pids in found.items() if pids}
