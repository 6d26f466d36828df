"""A process and all that it started: their numbers and their memory, as the kernel tells them."""

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


def memory_mb(pid: int) -> float:
    """Return the memory that a process and all that it started hold, shared parts counted once each [MB]."""
    total_kb = 0
    for each in children_of(pid):
        try:
            rows = Path(f"/proc/{each}/smaps_rollup").read_text()
        except OSError:
            continue
        total_kb += sum(int(row.split()[1]) for row in rows.splitlines() if row.startswith("Pss:"))
    return total_kb / 1024
