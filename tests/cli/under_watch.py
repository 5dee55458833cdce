"""Runs commands one after the other with a hook that sees every file that is opened. A program of its own, since a
hook stays as long as the process does.

Reads a JSON list of ``[arguments, forbidden folder]`` and prints one of ``{code, out, err, outside}``.
"""

from __future__ import annotations

import contextlib
import io
import json
import os
import signal
import sys
from typing import Any

from veergust.cli.main import main

FORBIDDEN = {"folder": "\0"}
SEEN: list[str] = []
EVENTS = ("open", "os.listdir", "os.scandir", "os.remove", "os.rename", "os.rmdir", "os.mkdir", "shutil.rmtree")
LONGEST = 20


def watch(event: str, args: tuple[Any, ...]) -> None:
    if event in EVENTS:
        for path in args[:2]:
            if isinstance(path, str | bytes):
                real = os.path.realpath(os.fsdecode(path))
                if real.startswith(FORBIDDEN["folder"]):
                    SEEN.append(f"{event} {real}")


def run(words: list[str]) -> dict[str, Any]:
    out, err = io.TextIOWrapper(io.BytesIO(), "utf-8"), io.TextIOWrapper(io.BytesIO(), "utf-8")
    code: object = None
    SEEN.clear()
    signal.alarm(LONGEST)  # a command that hangs ends the program, and the test with it
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        try:
            main(words)
        except SystemExit as stop:
            code = stop.code
    signal.alarm(0)
    texts = []
    for stream in (out, err):
        stream.flush()
        texts.append(stream.buffer.getvalue().decode("utf-8", "backslashreplace"))
    return {"code": code, "out": texts[0], "err": texts[1], "outside": list(SEEN)}


if __name__ == "__main__":
    sys.addaudithook(watch)
    results = []
    for words, folder in json.load(sys.stdin):
        FORBIDDEN["folder"] = folder
        results.append(run([os.fsdecode(w.encode("utf-8", "surrogateescape")) for w in words]))
    json.dump(results, sys.stdout)
