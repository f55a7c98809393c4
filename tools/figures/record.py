"""What was measured, by name: `python -m tools.figures.record "NAME" "VALUE" [--worst W]` for what is done by hand.

Measuring programs (bench, judge, mutants) call `record` with what they print; the page takes the rows it asks for.
"""

import argparse
import json
import platform
from datetime import UTC, datetime
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
MEASURED = ROOT / "docs" / "figures" / "measured.json"


def machine() -> str:
    """What the figures were measured on: processors, speed, system, Python; nothing that names one machine."""
    speeds = [line.split(":")[1] for line in _cpuinfo().splitlines() if line.startswith("cpu MHz")]
    ghz = f" at {float(speeds[0]) / 1000:.1f} GHz" if speeds else ""
    return f"{max(len(speeds), 1)} cores{ghz}, {platform.system()}, Python {platform.python_version()}"


def _cpuinfo() -> str:
    file = Path("/proc/cpuinfo")
    return file.read_text(encoding="utf-8") if file.exists() else ""


def measured() -> dict[str, dict[str, str]]:
    """All that was measured: by name the value, the worst, the day and the machine."""
    found: dict[str, dict[str, str]] = json.loads(MEASURED.read_text(encoding="utf-8")) if MEASURED.exists() else {}
    return found


def record(name: str, value: str, *, worst: str = "") -> None:
    """Keep a figure over what was measured before under this name."""
    rows = measured()
    rows[name] = {"value": value, "worst": worst, "day": f"{datetime.now(UTC):%Y-%m-%d}", "machine": machine()}
    text = json.dumps(dict(sorted(rows.items())), ensure_ascii=False, indent=1)
    MEASURED.write_text(f"{text}\n", encoding="utf-8")


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("name")
    parser.add_argument("value")
    parser.add_argument("--worst", default="")
    given = parser.parse_args()
    record(given.name, given.value, worst=given.worst)
