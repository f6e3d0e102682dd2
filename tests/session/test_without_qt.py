"""Session, procedures and library import where Qt cannot be."""

from __future__ import annotations

import subprocess
import sys
import unittest

SCRIPT = """
import importlib, pkgutil, sys

class NoQt:
    def find_spec(self, name, path=None, target=None):
        if name.partition(".")[0] in ("PySide6", "shiboken6"):
            raise ImportError(name)

sys.meta_path.insert(0, NoQt())
import idler.library, idler.procedures, idler.session
for package in (idler.procedures, idler.session):
    for module in pkgutil.walk_packages(package.__path__, package.__name__ + "."):
        importlib.import_module(module.name)
print(sum(name.startswith(("idler.procedures.", "idler.session.")) for name in sys.modules))
"""


class WithoutQt(unittest.TestCase):
    def test_every_module_of_session_and_procedures_imports(self) -> None:
        done = subprocess.run([sys.executable, "-c", SCRIPT], capture_output=True, text=True, check=False)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertGreater(int(done.stdout), 25)
