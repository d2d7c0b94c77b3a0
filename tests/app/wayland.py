#!/usr/bin/env python3
"""The program on Wayland: a compositor without a screen (Weston), at one and at two pixels a point.

usage: wayland.py MELLOW-LEVER
The first picture comes, a second start hands over to the first, and the program ends as it should.
"""
import os
import pathlib
import signal
import subprocess
import sys
import tempfile

sys.path.insert(0, os.path.join(os.path.dirname(os.path.abspath(__file__)), "..", "support"))
import waiting  # noqa: E402

PATIENCE = 60  # seconds


def until(ask, what):
    return waiting.until(ask, PATIENCE) or sys.exit(f"wayland: {what}")


def environment(folder, **more):
    own = {name: value for name, value in os.environ.items()
           if name not in ("DISPLAY", "QT_QPA_PLATFORM", "XDG_CONFIG_HOME", "XDG_DATA_HOME")}
    return {**own, "HOME": str(folder), "XDG_RUNTIME_DIR": str(folder), "WAYLAND_DISPLAY": "mellow-test",
            "QT_QPA_PLATFORM": "wayland", **more}


def try_at(program, folder, scale):
    own = environment(folder)
    compositor = subprocess.Popen(
        ["weston", "--backend=headless-backend.so", "--use-pixman", "--socket=mellow-test", "--no-config",
         f"--scale={scale}", f"--width={1400 * scale}", f"--height={900 * scale}", "--idle-time=0"],
        env=own, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    try:
        until((folder / "mellow-test").exists, "the compositor does not start")
        log = folder / f"log-{scale}"
        with open(log, "w", encoding="utf8") as out:
            first = subprocess.Popen([program, "--demo", "--no-sound", "--report-start"], env=own, stdout=out,
                                     stderr=out)
        until(lambda: "first frame after" in log.read_text(encoding="utf8") or first.poll() is not None,
              "no picture")
        if first.poll() is not None:
            sys.exit(f"wayland: it ended at once: {log.read_text(encoding='utf8')}")
        until(lambda: any(path.is_socket() for path in folder.glob("mellow-lever-*")), "nobody can be met")
        second = subprocess.run([program, "--new"], env=own, timeout=PATIENCE, check=False)
        if second.returncode != 0 or first.poll() is not None:
            sys.exit(f"wayland: the second start ended with {second.returncode}, the first with {first.poll()}")
        print(f"scale {scale}: {log.read_text(encoding='utf8').strip()}")
        first.send_signal(signal.SIGTERM)
        if first.wait(PATIENCE) != 0:
            sys.exit(f"wayland: it ended with {first.returncode}")
    finally:
        compositor.terminate()
        compositor.wait(PATIENCE)


def main():
    for scale in (1, 2):
        with tempfile.TemporaryDirectory() as folder:
            os.chmod(folder, 0o700)
            try_at(sys.argv[1], pathlib.Path(folder), scale)


if __name__ == "__main__":
    main()
