"""Programs of a million lines: read, measured and timed, against what NumPy needs for their figures alone; drawn; and texts
that nobody meant as programs."""

from __future__ import annotations

import resource
import statistics
import subprocess
import sys
import time

import numpy as np

LINES = 1_000_000
PAIRS = 5
FUZZED = 20_000
LETTERS = bytes.maketrans(b"GXYZFSM\n", b"        ")
LEAST = 10_000  # lines


def text_of(lines: int) -> bytes:
    """Short moves of three axes along a wave, as a surface is milled; a feed now and then."""
    rng = np.random.default_rng(1)
    way = np.arange(lines) * 0.0004
    places = np.column_stack((150 + 100 * np.sin(way), 100 + 60 * np.cos(way * 1.7), -2 + np.sin(way * 9)))
    places += rng.normal(0, 0.01, places.shape)
    body = "".join(
        f"X{x:.3f}Y{y:.3f}Z{z:.3f}\n" if at % 200 else f"G1X{x:.3f}Y{y:.3f}Z{z:.3f}F1200\n"
        for at, (x, y, z) in enumerate(places)
    )
    return ("G21G90S2000M3\nG0X150Y160Z5\n" + body + "M30\n").encode()


def figures(text: bytes) -> np.ndarray:
    """The figures of a program, by NumPy."""
    return np.fromstring(text.translate(LETTERS).decode(), sep=" ")  # the quickest way that it has


def _memory(text: bytes) -> float:
    """MB that a judgement takes at most above what the modules and the text take, in a process of its own."""
    code = (
        "import sys; from benchmarks.programs import text_of, judged; judged(text_of(1000));"
        "text = sys.stdin.buffer.read();"
        "held = lambda: int(open('/proc/self/status').read().split('VmHWM:')[1].split()[0]) / 1024;"
        "first = held(); kept = judged(text); print(held() - first)"
    )
    done = subprocess.run([sys.executable, "-c", code], input=text, capture_output=True, check=True)
    return float(done.stdout)


def judged(text: bytes) -> object:
    from tests.core.program.machines import mill

    from idler.core.program.choices import Chosen
    from idler.core.program.verdict import judge

    return judge(text, mill(), Chosen())


def _seconds(work: object) -> float:
    assert callable(work)
    begun = time.perf_counter()
    work()
    return time.perf_counter() - begun


def run() -> list[tuple[str, str, str]]:
    judged(text_of(1000))
    text = text_of(LINES)
    pairs = [(_seconds(lambda: judged(text)), _seconds(lambda: figures(text))) for _ in range(PAIRS)]
    ratio = statistics.median(ours / theirs for ours, theirs in pairs)
    ours, theirs = (statistics.median(column) for column in zip(*pairs, strict=True))
    sizes = [LEAST, LEAST * 10, LINES, LINES * 10]
    each = {}
    for size in sizes:
        body = text if size == LINES else text_of(size) if size < LINES else text.replace(b"M30\n", b"") * 10
        each[size] = (
            min(_seconds(lambda body=body: judged(body)) for _ in range(3 if size <= LINES else 1)) / size * 1e6
        )
    return [
        ("a million lines read, measured and timed / NumPy reading their figures alone", "0.6 ×",
         f"{ratio:.2f} × ({ours:.2f} s against {theirs:.2f} s)"),
        ("memory of it above the text", "200 MB", f"{_memory(text):.0f} MB"),
        ("µs for a line, of 10⁴, 10⁵, 10⁶ and 10⁷ lines", "linear", ", ".join(f"{each[size]:.2f}" for size in sizes)),
        *_pictures(text),
        ("texts that nobody meant as programs: errors", "none", _fuzzed()),
    ]  # fmt: skip


def _pictures(text: bytes) -> list[tuple[str, str, str]]:
    """Of a million strokes, 900 by 500 points."""
    from idler.app.pictures import raster
    from idler.app.pictures.programpath import UNSEEN
    from idler.core.program.strokes import strokes_of
    from idler.core.program.verdict import Verdict

    found = judged(text)
    assert isinstance(found, Verdict)
    begun = time.perf_counter()
    strokes = strokes_of(found.program)
    made = time.perf_counter() - begun
    view = np.array([0, 3.0, 0.0, 1, -2.5, 500.0])
    coarse = strokes.level(UNSEEN / 3.0)
    points, rapid = (coarse.points, coarse.rapid) if coarse is not None else (strokes.points, strokes.rapid)
    shades = np.zeros(len(rapid), np.uint8)

    def draw() -> None:
        cover, tints = (np.zeros((500, 900), np.uint8) for _ in range(2))
        raster.draw(points, rapid, shades, 0, len(rapid), view, 1.7, cover, tints)
        raster.coloured(cover, tints, np.zeros((256, 3), np.uint8))

    draw()
    took = statistics.median(_seconds(draw) for _ in range(7))
    return [("first picture of a million strokes, one drawing", "0.5 s", f"{made + took:.2f} s"),
            ("drawn anew while it is moved", "30 a second", f"{1 / took:.0f} a second")]  # fmt: skip


def _fuzzed() -> str:
    from tests.core.program.machines import mill

    from idler.core.program.choices import Chosen
    from idler.core.program.verdict import judge

    rng, machine = np.random.default_rng(2), mill()
    signs = np.frombuffer(b"GGGXYZIJKRFSMNTHPQLA00112233456789..-- \n\n()/;%#", np.uint8)
    begun = time.perf_counter()
    for _ in range(FUZZED):
        verdict = judge(rng.choice(signs, rng.integers(1, 120)).tobytes(), machine, Chosen())
        assert verdict is not None and np.isfinite(verdict.timing.total)
    return f"none in {FUZZED}, {time.perf_counter() - begun:.0f} s"


if __name__ == "__main__":
    for row in run():
        print(row)
    print(f"{resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB at most")
