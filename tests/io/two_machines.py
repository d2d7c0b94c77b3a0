#!/usr/bin/env python3
"""An ensemble plays an instrument on another machine, as docs/other-machines.md says, and the link is cut.

usage: two_machines.py MELLOW-LEVER-CLI [REPORT]; as root, since machines are made.
Two machines are two network namespaces with a cable between them, each with its own shared memory and its own
JACK server on the dummy driver. One instrument is played through JACK's network driver (netone), one by OSC.
Exit 77 where no machines can be made here.
"""
import json
import os
import pathlib
import shutil
import signal
import subprocess
import sys
import tempfile
import time

sys.path.insert(0, os.path.join(os.path.dirname(os.path.abspath(__file__)), "..", "support"))
import waiting  # noqa: E402

PATIENCE = 30  # seconds
SKIPPED = 77
NEAR, FAR = "10.77.31.1", "10.77.31.2"
OSC_PORT = 9731

ENSEMBLE = {
    "format": "mellow-lever/ensemble", "version": 1, "title": "Two machines",
    "controllers": [{"id": "keys", "port": "keys"}],
    "instruments": [
        {"id": "glass", "output": {"port": "glass", "channel": 1},
         "parameters": [{"id": "expression", "message": {"kind": "cc", "number": 11}}],
         "chains": [{"id": "swell", "source": {"kind": "keyNumber"}, "branches": [{"target": "expression", "low": 0, "high": 127}]}]},
        {"id": "drone", "output": {"port": f"osc.udp://{FAR}:{OSC_PORT}", "channel": 1},
         "parameters": [{"id": "gain", "message": {"kind": "osc", "address": "/drone/gain"},
                         "display": {"low": 0, "high": 1}}],
         "chains": [{"id": "rise", "source": {"kind": "keyNumber"}, "branches": [{"target": "gain", "low": 0, "high": 1}]}]}],
}
WIRES = [{"ours": "keys", "theirs": "hand:out", "way": "in", "by": "JACK"},
         {"ours": "glass", "theirs": "piano:playback_1", "way": "out", "by": "JACK"}]

LISTENER = f"""
import socket, sys
hears = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
hears.bind(("", {OSC_PORT}))
while True:
    print(hears.recv(1000).split(b"\\0")[0].decode(), flush=True)
"""


def run(*words, check=True):
    return subprocess.run(words, check=check, capture_output=True, text=True)


class Machine:
    """A network namespace with shared memory of its own, for as long as one process in it lives."""

    def __init__(self, name, address, cable):
        self.name, self.processes = f"ml-{name}-{os.getpid()}", []
        run("ip", "netns", "add", self.name)
        run("ip", "link", "set", cable, "netns", self.name)
        self.cable = cable
        self.ip("addr", "add", f"{address}/24", "dev", cable)
        self.ip("link", "set", "lo", "up")
        self.link("up")
        self.home = subprocess.Popen(
            ["ip", "netns", "exec", self.name, "unshare", "-m", "sh", "-c",
             "mount -t tmpfs tmpfs /dev/shm && echo ready && exec sleep 600"], stdout=subprocess.PIPE, text=True)
        if self.home.stdout.readline() != "ready\n":
            raise subprocess.CalledProcessError(1, "mount")

    def ip(self, *words):
        run("ip", "-n", self.name, *words)

    def link(self, how):
        self.ip("link", "set", self.cable, how)

    def words(self, words):
        return ["nsenter", "-t", str(self.home.pid), "-m", "-n", *map(str, words)]

    def start(self, log, *words, environment=None):
        with open(log, "w", encoding="utf8") as out:
            process = subprocess.Popen(self.words(words), stdout=out, stderr=out,
                                       env={**os.environ, **(environment or {})})
        self.processes.append(process)
        return process

    def say(self, *words):
        try:
            return subprocess.run(self.words(words), capture_output=True, text=True, timeout=10).stdout
        except subprocess.TimeoutExpired:
            return ""

    def end(self):
        for process in [*reversed(self.processes), self.home]:
            process.send_signal(signal.SIGTERM)
            try:
                process.wait(3)
            except subprocess.TimeoutExpired:
                process.kill()
        run("ip", "netns", "del", self.name, check=False)


def until(ask, what):
    begun = time.monotonic()
    if not waiting.until(ask, PATIENCE):
        raise AssertionError(what)
    return time.monotonic() - begun


class Heard:
    """What a log has had since the last look."""

    def __init__(self, path):
        self.path, self.seen = path, 0

    def forget(self):
        self.seen = self.path.stat().st_size

    def has(self, *words):
        text = self.path.read_text(encoding="utf8", errors="replace")[self.seen:]
        return all(word in text for word in words)


def play(tool, folder, near, far, report):
    (folder / "piece.lever").write_text(json.dumps(ENSEMBLE), encoding="utf8")
    settings = folder / "config" / "mellow-lever"
    settings.mkdir(parents=True)
    (settings / "machine.json").write_text(json.dumps({"wires": WIRES}), encoding="utf8")
    log = {name: folder / f"{name}.log" for name in
           ["near", "far", "source", "dump", "osc", "run", "hand"]}
    quiet = {"JACK_NO_AUDIO_RESERVATION": "1"}

    # The machine with the instruments: its server plays what comes over the cable.
    far.start(log["far"], "jackd", "-r", "-d", "netone", "-i", "0", "-o", "0", "-I", "1", "-O", "1",
              "-r", "48000", "-p", "1024", environment=quiet)
    far.start(log["osc"], sys.executable, "-c", LISTENER)
    # The machine with the hands.
    near.start(log["near"], "jackd", "-r", "-d", "dummy", "-r", "48000", "-p", "1024", environment=quiet)
    until(lambda: "system:playback_1" in near.say("jack_lsp"), "no server on the near machine")
    near.start(log["source"], "jack_netsource", "-H", FAR, "-N", "piano", "-i", "0", "-o", "0", "-I", "1",
               "-O", "1")
    until(lambda: "piano:playback_1" in near.say("jack_lsp"), "no port for the other machine")
    until(lambda: "system:capture_1" in far.say("jack_lsp"), "no server on the far machine")
    far.start(log["dump"], "jack_midi_dump", "instrument")
    until(lambda: "instrument:input" in far.say("jack_lsp"), "no instrument on the far machine")
    far.say("jack_connect", "system:capture_1", "instrument:input")
    tool = near.start(log["run"], tool, "run", "--no-sound-card", folder / "piece.lever",
                      environment={"XDG_CONFIG_HOME": str(folder / "config")})
    near.start(log["hand"], "jack_midiseq", "hand", "24000", "0", "60", "6000",
               "12000", "72", "6000")

    notes, osc = Heard(log["dump"]), Heard(log["osc"])
    took = until(lambda: notes.has("b0 0b", "90 3c", "80 3c"), "the piano heard nothing")
    until(lambda: osc.has("/drone/gain"), "the drone heard nothing")
    report(f"heard on the other machine after {took:.1f} s")

    far.link("down")
    time.sleep(3)  # as long as the cable is out
    notes.forget()
    osc.forget()
    assert tool.poll() is None, "the program ended with the link"
    begun = time.monotonic()
    near.say("jack_lsp")
    report(f"link out: the near server answers in {time.monotonic() - begun:.2f} s")
    assert not notes.has("90 3c"), "heard through a cable that is out"

    far.link("up")
    took = until(lambda: osc.has("/drone/gain"), "the drone hears nothing after the link is back")
    report(f"OSC heard again {took:.1f} s after the link")
    took = until(lambda: notes.has("b0 0b", "90 3c", "80 3c"), "the piano hears nothing after the link is back")
    report(f"notes and controls heard again {took:.1f} s after the link")

    begun = time.monotonic()
    tool.send_signal(signal.SIGTERM)
    assert tool.wait(10) == 0, "the program did not end well"
    report(f"the program ended in {time.monotonic() - begun:.2f} s")


def make_machines():
    cable = [f"mln{os.getpid()}", f"mlf{os.getpid()}"]
    run("ip", "link", "add", cable[0], "type", "veth", "peer", "name", cable[1])
    try:
        near = Machine("near", NEAR, cable[0])
        try:
            return near, Machine("far", FAR, cable[1])
        except Exception:
            near.end()
            raise
    except Exception:
        run("ip", "link", "del", cable[0], check=False)
        raise


def main():
    for program in ["ip", "nsenter", "unshare", "jackd", "jack_netsource", "jack_midi_dump", "jack_midiseq"]:
        if shutil.which(program) is None:
            sys.exit(f"two_machines: {program} is missing")
    try:
        near, far = make_machines()
    except subprocess.CalledProcessError as error:
        print(f"two_machines: no machines can be made here: {error.stderr or error}")
        return SKIPPED
    folder = pathlib.Path(tempfile.mkdtemp())
    try:
        play(sys.argv[1], folder, near, far, print)
        return 0
    except AssertionError as error:
        print(f"two_machines: {error}")
        for log in sorted(folder.glob("*.log")):
            print(f"--- {log.name}\n" + log.read_text(encoding="utf8", errors="replace")[-1500:])
        return 1
    finally:
        near.end()
        far.end()
        shutil.rmtree(folder, ignore_errors=True)


if __name__ == "__main__":
    sys.exit(main())
