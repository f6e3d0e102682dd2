"""What is heard: nothing until it is switched on; a question, an end and a stop, each otherwise."""

from __future__ import annotations

import io
import os
import tempfile
import wave
from pathlib import Path
from unittest import mock

from idler.app.qt_wait import until
from idler.app.sound import Sounds, sound_of
from idler.procedures.engine import Ending, Procedure, Result, Run
from idler.procedures.questions import done
from idler.session.calls import Call
from tests.app.gui import SessionCase


class _Asks(Procedure):
    moves = False

    def steps(self) -> Run:
        yield from self.ask(done("encoder.turned", "Now turn it."))
        return Result(Ending.DONE, "It was turned.")


class Sound(SessionCase):
    on_bench = False

    def test_a_question_an_end_and_a_stop_are_heard_where_it_is_on(self) -> None:
        sounds = self.window.sounds
        self.session.calls.publish(Call.QUESTION)
        self.assertIsNone(sounds.played)
        self.window.set_sounds(True)
        self.assertTrue(self.window.menu.actions["sounds"].isChecked())
        run = _Asks(self.session)
        with mock.patch.object(Procedure, "_blind", False):
            run.begin(run.steps(), "")
            self.assertIs(sounds.played, Call.QUESTION)
            run.answer("")
            until(lambda: sounds.played is Call.END, "the end")
            run.begin(run.steps(), "")
        self.window.stop()
        self.assertIs(sounds.played, Call.STOP)
        self.window.set_sounds(False)
        self.session.calls.publish(Call.END)
        self.assertIs(sounds.played, Call.STOP)

    def test_it_is_played_by_what_the_system_has(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            player, heard = Path(name) / "aplay", Path(name) / "heard.wav"
            player.write_text(f'#!/bin/sh\ncp "$1" {heard}.part && mv {heard}.part {heard}\n')
            player.chmod(0o755)
            with mock.patch.dict(os.environ, {"PATH": f"{name}{os.pathsep}/usr/bin{os.pathsep}/bin"}):
                with mock.patch("idler.app.sound.PLAYERS", ("aplay",)):
                    sounds = Sounds(self.session, self.window)
                sounds.turn(True)
                until(heard.exists, "the player")
            self.assertEqual(heard.read_bytes(), sound_of(Call.END))

    def test_they_are_told_apart_and_never_click(self) -> None:
        lengths = set()
        for call in Call:
            with wave.open(io.BytesIO(sound_of(call))) as found:
                frames = found.readframes(found.getnframes())
                self.assertLess(found.getnframes() / found.getframerate(), 0.7)
            samples = memoryview(frames).cast("h")
            self.assertEqual((samples[0], abs(samples[-1]) < 600, max(samples) > 9000), (0, True, True))
            lengths.add(len(samples))
        self.assertEqual(len(lengths), len(Call))
