"""A home that is not sure any more: its motor had no current since."""

from __future__ import annotations

from tests.procedures.ready import Ready
from tests.support import Y, Z


class Unheld(Ready):
    def test_what_had_no_current_is_not_sure_until_it_is_homed_again(self) -> None:
        said: list[str] = []
        self.ready()
        session = self.mill.session
        session.told.subscribe(lambda _tone, words: said.append(words))
        self.assertEqual(session.homes.unheld, set())
        self.mill.power(False)
        self.assertTrue(self.mill.wait(lambda: len(session.homes.unheld) == 3, 10))
        self.assertEqual([words for words in said if "current" in words], [], "said when they have it again")
        self.mill.power()
        self.assertTrue(self.mill.wait(lambda: any("no current" in words for words in said), 10))
        self.assertIn("X, Y and Z had no current since they were homed", said[-1])
        self.assertTrue(session.homes.known(Z) and not session.homes.sure(Z))
        session.link.home_here(Y)
        self.assertTrue(self.mill.wait(lambda: Y not in session.homes.unheld, 10))
        self.assertIn(Z, session.homes.unheld)
        session.link.forget_home(Z)
        self.assertTrue(self.mill.wait(lambda: Z not in session.homes.unheld, 10), "it has none")
