"""Lists the licences of everything that ships, from the modules themselves: licences.py [--check]."""

import json
import pathlib
import re
import subprocess
import sys

ROOT = pathlib.Path(__file__).parent.parent
LIST = ROOT / "docs/licences.md"

# A text of each licence that no other has, in the order in which they are tried.
SIGNS = [
    ("Apache-2.0", r"Apache License\s+Version 2\.0"),
    ("MPL-2.0", r"Mozilla Public License,? [Vv]ersion 2\.0"),
    ("BSD-3-Clause", r"Redistribution and use in source and binary forms.*Neither the name|"
                     r"Redistribution and use in source and binary forms.*may not be used to endorse"),
    ("BSD-2-Clause", r"Redistribution and use in source and binary forms"),
    ("ISC", r"Permission to use, copy, modify,? and(?:/or)? distribute this software for any"),
    ("MIT", r"Permission is hereby granted, free of charge"),
    ("Unlicense", r"free and unencumbered software"),
]

# What is neither a module of Go nor of npm.
OTHERS = [
    ("core/naming/latin-ascii.tsv", "Unicode-3.0", "made from CLDR's transform Latin-ASCII"),
    ("core/calendar/windowszones.tsv", "Unicode-3.0", "made from CLDR's windowsZones"),
]


def licence(folder: pathlib.Path) -> str:
    for name in ("LICENSE*", "LICENCE*", "COPYING*", "License*"):
        for file in sorted(folder.glob(name)):
            text = " ".join(file.read_text(errors="replace").split()) if file.is_file() else ""
            for sign, pattern in SIGNS:
                if re.search(pattern, text, re.DOTALL):
                    return sign
    return "unknown"


def modules() -> list[tuple[str, str, str]]:
    text = subprocess.run(
        ["go", "list", "-deps", "-f", "{{with .Module}}{{if not .Main}}{{.Path}}\t{{.Version}}\t{{.Dir}}{{end}}{{end}}", "./cmd/orario"],
        cwd=ROOT, check=True, capture_output=True, text=True).stdout
    rows = {tuple(line.split("\t")) for line in text.splitlines() if line}
    return sorted((path, version, licence(pathlib.Path(folder))) for path, version, folder in rows)


def said(name: str) -> str:
    """The licence of a package whose lock entry names none: by its own files."""
    folder = ROOT / "web/node_modules" / name
    found = licence(folder)
    if found == "unknown" and (folder / "Readme.md").exists() and "MIT" in (folder / "Readme.md").read_text():
        return "MIT"
    return found


def packages() -> list[tuple[str, str, str]]:
    lock = json.loads((ROOT / "web/package-lock.json").read_text())
    return sorted((name.removeprefix("node_modules/"), p.get("version", ""), str(p.get("license") or said(name.removeprefix("node_modules/"))))
                  for name, p in lock["packages"].items() if name and not p.get("dev") and not p.get("devOptional"))


def table(head: str, rows: list[tuple[str, str, str]]) -> str:
    return f"| {head} | Version | Licence |\n|---|---|---|\n" + "".join(f"| {a} | {b} | {c} |\n" for a, b, c in rows)


def main() -> int:
    go, npm = modules(), packages()
    text = ("# Licences of what ships\n\nMade by `scripts/licences.py` from the modules themselves; `make audit` makes it anew.\n\n"
            "## In the program\n\n" + table("Go module", go) + "\n## In the pages\n\n" + table("npm package", npm) +
            "\n## Beside them\n\n| What | Licence | Where from |\n|---|---|---|\n" + "".join(f"| {a} | {b} | {c} |\n" for a, b, c in OTHERS))
    unknown = [row[0] for row in go + npm if "unknown" in row[2]]
    if unknown:
        print("No licence is known of: " + ", ".join(unknown), file=sys.stderr)
        return 1
    if "--check" in sys.argv:
        if not LIST.exists() or LIST.read_text() != text:
            print("docs/licences.md is not as it should be; make it anew with: python3 scripts/licences.py", file=sys.stderr)
            return 1
        return 0
    LIST.write_text(text)
    return 0


sys.exit(main())
