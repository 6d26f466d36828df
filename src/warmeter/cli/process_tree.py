"""A process and all that it started: their numbers and their memory, as the kernel tells them."""

import os
from pathlib import Path


def children_of(pid: int) -> list[int]:
    """Return the processes that a process started, and those that they started, itself first."""
    parents: dict[int, list[int]] = {}
    for status in Path("/proc").glob("[0-9]*/stat"):
        try:
            fields = status.read_text().rsplit(")", 1)[1].split()
        except OSError:
            continue
        parents.setdefault(int(fields[1]), []).append(int(status.parent.name))
    found = [pid]
    for each in found:
        found += parents.get(each, [])
    return found


def command_of(pid: int) -> str:
    """Return the command line of a process, with its number; "" if it has gone."""
    try:
        return Path(f"/proc/{pid}/cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace") + str(pid)
    except OSError:
        return ""


def listens(pid: int, port: int) -> bool:
    """Return whether a process holds the socket that listens at a port of loopback."""
    inodes = {
        row.split()[9]
        for row in Path("/proc/net/tcp").read_text().splitlines()[1:]
        if row.split()[1].endswith(f":{port:04X}") and row.split()[3] == "0A"
    }
    try:
        return any(
            os.readlink(fd) in {f"socket:[{inode}]" for inode in inodes} for fd in Path(f"/proc/{pid}/fd").iterdir()
        )
    except OSError:
        return False


def memory_mb(pid: int) -> float:
    """Return the memory that a process and all that it started hold, shared parts counted once each [MB]."""
    return sum(map(own_memory_mb, children_of(pid)))


def own_memory_mb(pid: int) -> float:
    """Return the memory that a process itself holds, its part of what is shared [MB]; none once it has gone."""
    try:
        rows = Path(f"/proc/{pid}/smaps_rollup").read_text()
    except OSError:
        return 0.0
    return sum(int(row.split()[1]) for row in rows.splitlines() if row.startswith("Pss:")) / 1024
