"""Print lines of code and of tests, without blank lines, generated files and migrations."""

import subprocess
from pathlib import Path

ENDINGS = {".py", ".ts", ".tsx"}
SKIPPED = ("generated", "migrations/")


def main() -> None:
    """Count the files that git knows."""
    names = subprocess.run(["git", "ls-files"], capture_output=True, text=True, check=True).stdout.split()
    lines = {"code": 0, "tests": 0}
    for name in names:
        path = Path(name)
        if path.suffix in ENDINGS and path.is_file() and not any(s in name for s in SKIPPED):
            count = sum(1 for line in path.read_text().splitlines() if line.strip())
            is_test = name.startswith("tests/") or ".test." in name
            lines["tests" if is_test else "code"] += count
    total = sum(lines.values())
    print(f"code {lines['code']}, tests {lines['tests']}: tests are {100 * lines['tests'] / total:.0f} %")


if __name__ == "__main__":
    main()
