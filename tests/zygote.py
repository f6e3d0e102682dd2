"""A process that has loaded the command line already and does its words in children: a new interpreter for each would spend
most of its time loading the same modules again. Requests and answers are lines of JSON."""

from __future__ import annotations

import atexit
import json
import os
import subprocess
import sys
import tempfile
import threading
from pathlib import Path
from typing import Any

LOADED = (
    "idler.cli", "idler.shelf.shelf", "idler.shelf.history", "idler.shelf.exchange", "idler.shelf.report", "idler.shelf.sides",
    "idler.core.exchange.dcf", "idler.core.report.compare", "idler.core.rules.findings", "idler.procedures.registry",
    "idler.session.session", "idler.link.thread",
)  # fmt: skip


class Zygote:
    """The other side of it, in a process of tests."""

    def __init__(self) -> None:
        self._process = subprocess.Popen(
            [sys.executable, "-m", "tests.zygote"], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True,
            env={**os.environ, "QT_QPA_PLATFORM": "offscreen"},
        )  # fmt: skip
        self._lock = threading.Lock()
        atexit.register(self.close)

    def run(self, words: tuple[str, ...], folder: Path) -> subprocess.CompletedProcess[str]:
        """What the words end with and print, done in this folder."""
        pipes = self._process
        assert pipes.stdin is not None and pipes.stdout is not None
        with self._lock:
            pipes.stdin.write(
                json.dumps({"words": words, "folder": str(folder), "environment": dict(os.environ)}) + "\n"
            )
            pipes.stdin.flush()
            answer = json.loads(pipes.stdout.readline())
        return subprocess.CompletedProcess(list(words), answer["code"], answer["out"], answer["error"])

    def close(self) -> None:
        if self._process.poll() is None:
            assert self._process.stdin is not None
            self._process.stdin.close()
            self._process.wait(5)


def _child(request: dict[str, Any], out: int, error: int) -> None:
    os.dup2(out, 1)
    os.dup2(error, 2)
    os.chdir(request["folder"])
    os.environ.clear()
    os.environ.update(request["environment"], QT_QPA_PLATFORM="offscreen")
    from idler.cli import main

    sys.argv = ["idler", *request["words"]]
    code = 0
    try:
        main(request["words"], prog_name="./idler")
    except SystemExit as end:
        code = end.code if isinstance(end.code, int) else int(end.code is not None)
    except BaseException:
        import traceback

        traceback.print_exc()
        code = 1
    atexit._run_exitfuncs()
    sys.stdout.flush()
    sys.stderr.flush()
    os._exit(code)


def serve() -> None:
    """Until its input is closed."""
    import importlib

    for name in LOADED:
        importlib.import_module(name)
    for line in sys.stdin:
        request = json.loads(line)
        with tempfile.TemporaryFile() as out, tempfile.TemporaryFile() as error:
            child = os.fork()
            if child == 0:
                _child(request, out.fileno(), error.fileno())
            _, status = os.waitpid(child, 0)
            out.seek(0)
            error.seek(0)
            answer = {
                "code": os.waitstatus_to_exitcode(status),
                "out": out.read().decode(),
                "error": error.read().decode(),
            }
        print(json.dumps(answer), flush=True)


if __name__ == "__main__":
    serve()
