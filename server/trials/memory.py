"""What a process holds in memory, as the kernel has it."""

from __future__ import annotations

from pathlib import Path


def memory_mib(pid: int) -> float:
    """The resident memory of a process in MiB."""
    lines = Path(f"/proc/{pid}/status").read_text().splitlines()
    return int(next(line for line in lines if line.startswith("VmRSS")).split()[1]) / 1024
