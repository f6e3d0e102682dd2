"""The stand-in controller as a process of its own."""

from __future__ import annotations

import json
import multiprocessing
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import click


@click.command()
@click.option("--rig", default="verge", show_default=True, help="A rig by name, or the path of a rig file.")
@click.option("--port", default=0, help="Port of the bus; 0 takes any free one.")
@click.option("--hands-port", default=0, help="Port of the physical side; 0 takes any free one.")
@click.option("--pace", default=1.0, show_default=True, help="How much faster than real time the rig's clock runs.")
@click.option("--seed", default=1, show_default=True, help="Seed of everything that scatters.")
@click.option("--memory", type=click.Path(dir_okay=False, path_type=Path), help="File that the controller stores to.")
@click.option("--pty", is_flag=True, help="Offer the bus on a pseudo terminal as well.")
def bench(rig: str, port: int, hands_port: int, pace: float, seed: int, memory: Path | None, pty: bool) -> None:
    """Run the stand-in controller with a simulated machine; prints one JSON line when it is ready. Where its motion has to be
    compiled first, it says on standard error how much of it is."""
    from idler.bench.compiled import NAME
    from idler.bench.rigs import rig as rigs
    from idler.bench.server.server import Server
    from idler.bench.world import warm_up
    from idler.compiling import watched

    with watched(NAME, lambda done, of: click.echo(json.dumps({"compiled": done, "of": of}), err=True)):
        warm_up()
    server = Server(rigs.load(rig), port=port, hands_port=hands_port, pace=pace, seed=seed, memory=memory, pty=pty)
    server.serve()


@click.command("compile", hidden=True)
def compile_() -> None:
    """Compile what is compiled at all, the bench and the planner, into its cache: done once when Idler is set up. The parts
    are compiled side by side, each in a process of its own."""
    from idler.app.pictures.raster import warm_up as warm_up_pictures
    from idler.bench.world import warm_up as warm_up_bench
    from idler.core.program.verdict import warm_up as warm_up_programs

    with ProcessPoolExecutor(mp_context=multiprocessing.get_context("fork")) as pool:
        for done in [pool.submit(each) for each in (warm_up_bench, warm_up_programs, warm_up_pictures)]:
            done.result()
