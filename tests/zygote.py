"""A process that has loaded the command line already and does its words in children: a new interpreter for each would spend
most of its time loading the same modules again. So it is with a module of tests that is a program of its own. Requests and
answers are lines of JSON; the pipes of a child that goes on beside the others come over a socket."""

from __future__ import annotations

import atexit
import contextlib
import importlib
import json
import os
import select
import signal
import socket
import subprocess
import sys
import tempfile
import threading
from pathlib import Path
from typing import IO, Any

LOADED = (
    "idler.cli", "idler.shelf.shelf", "idler.shelf.history", "idler.shelf.exchange", "idler.shelf.report", "idler.shelf.sides",
    "idler.core.exchange.dcf", "idler.core.report.compare", "idler.core.rules.findings", "idler.procedures.registry",
    "idler.session.session", "idler.link.thread",
)  # fmt: skip


class Started:
    """A child that goes on until the pipe to it is closed; what it offers is as that of subprocess.Popen."""

    def __init__(self, pid: int, stdin: IO[str], stdout: IO[str]) -> None:
        self.pid, self.stdin, self.stdout = pid, stdin, stdout
        self._ended = os.pidfd_open(pid)

    def wait(self, seconds: float) -> None:
        """Raises subprocess.TimeoutExpired."""
        if self._ended < 0:
            return
        if not select.select([self._ended], [], [], seconds)[0]:
            raise subprocess.TimeoutExpired("a child", seconds)
        os.close(self._ended)
        self._ended = -1

    def kill(self) -> None:
        """At once; nothing where it has ended."""
        if self._ended >= 0:
            with contextlib.suppress(ProcessLookupError):
                signal.pidfd_send_signal(self._ended, signal.SIGKILL)


class Zygote:
    """The other side of it, in a process of tests."""

    def __init__(self) -> None:
        self._pipes, theirs = socket.socketpair()
        self._process = subprocess.Popen(
            [sys.executable, "-m", "tests.zygote", str(theirs.fileno())], stdin=subprocess.PIPE, stdout=subprocess.PIPE,
            text=True, env={**os.environ, "QT_QPA_PLATFORM": "offscreen"}, pass_fds=[theirs.fileno()],
        )  # fmt: skip
        theirs.close()
        self._lock = threading.Lock()
        atexit.register(self.close)

    def run(self, words: tuple[str, ...], folder: Path) -> subprocess.CompletedProcess[str]:
        answer = self._ask(words, folder)
        return subprocess.CompletedProcess(list(words), answer["code"], answer["out"], answer["error"])

    def start(self, words: tuple[str, ...], program: str = "") -> Started:
        """program: a module whose `main` takes the words; else it is the command line that does."""
        theirs_in, ours_out = os.pipe()
        ours_in, theirs_out = os.pipe()
        answer = self._ask(words, Path.cwd(), (theirs_in, theirs_out), program)
        for each in (theirs_in, theirs_out):
            os.close(each)
        return Started(answer["pid"], os.fdopen(ours_out, "w"), os.fdopen(ours_in))

    def _ask(
        self, words: tuple[str, ...], folder: Path, pipes: tuple[int, ...] = (), program: str = ""
    ) -> dict[str, Any]:
        request = {
            "words": words, "folder": str(folder), "environment": dict(os.environ), "pipes": len(pipes), "program": program,
        }  # fmt: skip
        assert self._process.stdin is not None and self._process.stdout is not None
        with self._lock:
            if pipes:
                socket.send_fds(self._pipes, [b"+"], pipes)
            self._process.stdin.write(json.dumps(request) + "\n")
            self._process.stdin.flush()
            answer: dict[str, Any] = json.loads(self._process.stdout.readline())
        return answer

    def close(self) -> None:
        if self._process.poll() is None:
            assert self._process.stdin is not None
            self._process.stdin.close()
            self._process.wait(5)


def _child(request: dict[str, Any], *descriptors: int) -> None:
    """descriptors: what it has for each of its own from 0 on; -1: what this process has."""
    for own, given in enumerate(descriptors):
        if given >= 0:
            os.dup2(given, own)
    os.chdir(request["folder"])
    os.environ.clear()
    os.environ.update(request["environment"], QT_QPA_PLATFORM="offscreen")
    sys.argv = ["idler", *request["words"]]
    code = 0
    try:
        if request["program"]:
            importlib.import_module(request["program"]).main(*request["words"])
        else:
            importlib.import_module("idler.cli").main(request["words"], prog_name="./idler")
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


def _run(request: dict[str, Any]) -> dict[str, Any]:
    with tempfile.TemporaryFile() as out, tempfile.TemporaryFile() as error:
        child = os.fork()
        if child == 0:
            _child(request, -1, out.fileno(), error.fileno())
        _, status = os.waitpid(child, 0)
        out.seek(0)
        error.seek(0)
        return {
            "code": os.waitstatus_to_exitcode(status),
            "out": out.read().decode(),
            "error": error.read().decode(),
        }


def _start(request: dict[str, Any], pipes: socket.socket) -> dict[str, Any]:
    if request["program"]:
        importlib.import_module(request["program"])  # here, for all that are to come
    else:
        from idler.bench.server import server  # noqa: F401
        from idler.bench.world import warm_up

        warm_up()
    _, (given_in, given_out), _, _ = socket.recv_fds(pipes, 1, 2)
    child = os.fork()
    if child == 0:
        pipes.close()
        _child(request, given_in, given_out)
    os.close(given_in)
    os.close(given_out)
    _started.append(child)
    return {"pid": child}


_started: list[int] = []


def serve(pipes: socket.socket) -> None:
    """Until its input is closed."""
    for name in LOADED:
        importlib.import_module(name)
    for line in sys.stdin:
        _started[:] = [child for child in _started if os.waitpid(child, os.WNOHANG)[0] == 0]
        request = json.loads(line)
        print(json.dumps(_start(request, pipes) if request["pipes"] else _run(request)), flush=True)


if __name__ == "__main__":
    serve(socket.socket(fileno=int(sys.argv[1])))
