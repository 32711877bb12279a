"""What is known against the packages that this is built on, as far as their registries tell it.

    python scripts/audit.py

pip-audit over requirements.txt, npm audit over what the pages are built from. A registry that keeps no list of
advisories, or is not reached, is said and fails nothing: from its silence nothing follows.
"""

import json
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

ROOT = Path(__file__).parents[1]
ACCEPTED: dict[str, str] = {}
"""Advisories that do not concern us, by their number, with the reason."""
PIP = [sys.executable, "-m", "pip_audit", "--format", "json", "--progress-spinner", "off", "--timeout", "10",
       "--disable-pip", "--require-hashes", "-r", str(ROOT / "requirements.txt")]  # fmt: skip
NPM = ["npm", "audit", "--json", "--prefix", str(ROOT / "web")]


def printed(command: list[str]) -> str:
    """What a command prints, whatever it says of itself; nothing if it is not there or never ends."""
    try:
        return subprocess.run(command, capture_output=True, text=True, timeout=120, cwd=ROOT).stdout
    except (OSError, subprocess.TimeoutExpired):
        return ""


def of_python(told: str) -> list[str] | None:
    """Advisories in what pip-audit prints, each in words; None if the registry told nothing of any package."""
    packages = _read(told).get("dependencies") or []
    if all("vulns" not in package for package in packages):
        return None
    return [
        f"{package['name']} {package['version']}: {advisory['id']}"
        + (f", mended in {', '.join(advisory['fix_versions'])}" if advisory.get("fix_versions") else "")
        for package in packages
        for advisory in package.get("vulns", ())
        if not {advisory["id"], *advisory.get("aliases", ())} & set(ACCEPTED)
    ]


def of_web(told: str) -> list[str] | None:
    """The same of npm audit. A package that only leads to another that has one is not named."""
    read = _read(told)
    if "vulnerabilities" not in read:
        return None
    return [
        f"{name} {package.get('range', '')}: {via['url'].rpartition('/')[2]}, {via['severity']}"
        for name, package in read["vulnerabilities"].items()
        for via in package.get("via", ())
        if isinstance(via, dict) and via["url"].rpartition("/")[2] not in ACCEPTED
    ]


def _read(told: str) -> dict[str, Any]:
    try:
        read = json.loads(told)
    except ValueError:
        return {}
    return read if isinstance(read, dict) else {}


def main(run: Callable[[list[str]], str] = printed) -> int:
    """Says what is known; 1 if that is anything."""
    known = 0
    for name, found in (("Python", of_python(run(PIP))), ("front-end", of_web(run(NPM)))):
        if found is None:
            print(f"{name} packages: the registry here tells nothing of advisories.")
            continue
        print(f"{name} packages: {len(found) or 'no'} advisories.", *found, sep="\n  ")
        known += len(found)
    return 1 if known else 0


if __name__ == "__main__":
    sys.exit(main())
