"""Looks whether addresses are free: ports.py SETTING=HOST:PORT...; tells which is not, who has it, and what moves it."""

import os
import socket
import sys


def holder(port: int) -> str:
    """The program that listens on a TCP port of this machine, where that can be known (Linux, proc(5))."""
    inodes = set()
    for table in ("/proc/net/tcp", "/proc/net/tcp6"):
        try:
            rows = open(table).read().splitlines()[1:]
        except OSError:
            continue
        for row in rows:
            fields = row.split()
            if fields[3] == "0A" and int(fields[1].rsplit(":", 1)[1], 16) == port:
                inodes.add(f"socket:[{fields[9]}]")
    for pid in filter(str.isdigit, os.listdir("/proc") if inodes else []):
        try:
            for fd in os.listdir(f"/proc/{pid}/fd"):
                if os.readlink(f"/proc/{pid}/fd/{fd}") in inodes:
                    words = open(f"/proc/{pid}/cmdline").read().split("\0")
                    return f"{' '.join(words).strip()} (process {pid})"
        except OSError:
            continue
    return "another program"


def main() -> int:
    taken = 0
    for argument in sys.argv[1:]:
        setting, _, address = argument.partition("=")
        host, _, port = address.rpartition(":")
        try:
            with socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET) as probe:
                probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
                probe.bind((host.strip("[]"), int(port)))
        except (OSError, ValueError) as problem:
            taken += 1
            why = f"{holder(int(port))} has it" if port.isdigit() and problem.errno == 98 else str(problem)
            print(f"The address {address} cannot be used: {why}. Set {setting} to another one, such as "
                  f"{setting}={host}:{int(port) + 1000 if port.isdigit() and int(port) < 64000 else 18420}.", file=sys.stderr)
    return 1 if taken else 0


sys.exit(main())
