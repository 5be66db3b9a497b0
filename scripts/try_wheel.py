"""Installs the wheel into an empty environment where there is no Node, starts the demo, opens its page."""

import os
import re
import subprocess
import sys
import tempfile
import venv
from pathlib import Path

from chromium import launched
from playwright.sync_api import expect, sync_playwright


def main(wheel: Path) -> None:
    """Fails where the wheel does not do what it should."""
    with tempfile.TemporaryDirectory(prefix="spare-margin-wheel-") as folder:
        home = Path(folder)
        venv.create(home / "env", with_pip=True)
        programs = home / "env" / ("Scripts" if os.name == "nt" else "bin")
        pip = [str(programs / "python"), "-m", "pip", "install", "--quiet"]
        subprocess.run([*pip, "--disable-pip-version-check", str(wheel)], check=True)
        bare = {"PATH": str(programs), "HOME": folder, "PYTHONUNBUFFERED": "1"}
        command = [str(programs / "spare-margin"), "demo", "--port", "0", "--no-browser"]
        served = subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env=bare, cwd=folder)
        try:
            assert served.stdout is not None
            found = re.search(r"Spare Margin is at (http://\S+)", served.stdout.readline())
            assert found, "the demo did not say where it is"
            look_at(found[1])
        finally:
            served.terminate()
            served.wait()
    print(f"{wheel.name} installs, starts and shows its page.")


def look_at(address: str) -> None:
    """The page shows the demo jobs."""
    with sync_playwright() as driver:
        browser = launched(driver)
        page = browser.new_page()
        page.goto(address)
        expect(page.get_by_role("link", name="Marram").first).to_be_visible(timeout=60_000)
        browser.close()


if __name__ == "__main__":
    main(max(Path(sys.argv[1]).glob("*.whl"), key=lambda p: p.stat().st_mtime))
