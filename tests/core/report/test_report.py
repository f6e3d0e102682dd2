"""What stands in a report, and that a page is made of it."""

from __future__ import annotations

import html.parser
import unittest
from fractions import Fraction

from idler.core.errors import IdlerError
from idler.core.machine import Address, Machine
from idler.core.proof.claims import Proof, Witness, direction_claim, evidence
from idler.core.proof.workzero import WorkSet, WorkZero
from idler.core.report import report
from idler.core.values.stage import parse_stages
from idler.core.wiring import inputs
from idler.core.wiring.diagram import WIDTH, Stroke, Words, diagram
from idler.shelf.report import PAPERS, pdf
from idler.shelf.report import html as page_of
from tests.support import X, Y, at, verge, wired


class Content(unittest.TestCase):
    def test_every_value_that_counts_with_its_unit(self) -> None:
        values = {
            part.name: {line.label: line.first_text for line in part.lines} for part in report(wired(), {}).values
        }
        self.assertEqual(values["X"]["pitch of the screw"], "5 mm")
        self.assertNotIn("module of the rack", values["X"])
        self.assertEqual(values["range 3"]["highest speed"], "6\u202f000 rpm")
        self.assertIn("input 1", values)

    def test_the_drawing_is_to_scale(self) -> None:
        (sheet,) = [axis for axis in report(wired(), {}).axes if axis.name == "X"]
        marks = {mark.kind: mark for mark in sheet.marks if mark.kind != "stop"}
        stops = [mark.at for mark in sheet.marks if mark.kind == "stop"]
        self.assertEqual(stops, [0.0, 1.0])
        self.assertAlmostEqual(marks["travel"].at, (-308 + 312) / 318)
        self.assertEqual(marks["travel"].label, "travel -308 to 0 mm")
        inch = report(wired().with_values({Address(None, "names.screen_unit"): "in"}), {}).axes[0]
        self.assertIn("0.2362 in", [mark.label for mark in inch.marks][1])

    def test_soft_limits_that_are_off_are_said_first(self) -> None:
        self.assertEqual(report(wired(), {}).limits_off, [])
        zeros = WorkSet().put(1, {"X": WorkZero(-12.5), "Q": WorkZero(1.0)}).named(1, "vice")
        found = report(wired(), {}, zeros)
        self.assertEqual([(line.title, line.places) for line in found.zeros], [("G55 vice", "X -12.500 mm")])
        self.assertIn("G55 vice", page_of(found, "draft", 0.0))
        off = report(wired().with_values({at(Y, "travel.limits_on"): False}), {})
        self.assertEqual(off.limits_off, ["Y"])
        self.assertIn("Soft limits of Y are off", page_of(off, "revision 1", 0.0))

    def test_proofs_with_date_result_and_what_is_stale(self) -> None:
        claim = direction_claim(wired(), X)
        kept = {claim.key: evidence(wired(), claim, 86_400.0, True, "asked to go to +, it did", Witness.EYES)}
        line = next(each for each in report(wired(), kept).proofs if each.label == "direction of X")
        self.assertEqual(
            (line.state, line.when, line.result), (Proof.PROVEN, 86_400.0, "by eye: asked to go to +, it did")
        )
        turned = wired().with_values({at(X, "axis.reversed"): True})
        self.assertIs(next(e for e in report(turned, kept).proofs if e.label == "direction of X").state, Proof.STALE)

    def test_the_wiring_list(self) -> None:
        found = report(wired(), {})
        self.assertEqual(
            [(wire.terminal, wire.role, wire.details) for wire in found.inputs[:2]],
            [
                ("1", "emergency stop", "closed at rest, filter 0.2 ms"),
                ("2", "X home switch", "closed at rest, filter 0.2 ms"),
            ],
        )
        self.assertEqual([wire.role for wire in found.outputs if wire.terminal == "V"], ["spindle speed"])


class Page(unittest.TestCase):
    def test_it_is_whole_and_names_are_no_markup(self) -> None:
        class Tags(html.parser.HTMLParser):
            open: list[str] = []  # noqa: RUF012
            scripts = 0

            def handle_starttag(self, tag, attrs) -> None:
                self.scripts += tag == "script"
                if tag not in ("meta", "rect", "circle", "polygon", "line", "path"):
                    self.open.append(tag)

            def handle_endtag(self, tag) -> None:
                if tag not in ("rect", "circle", "polygon", "line"):
                    assert self.open.pop() == tag, tag

        named = wired().with_values({Address(None, "names.machine"): "<script>alert(1)</script> & Sons"})
        text = page_of(report(named, {}), "revision 3, “note”", 1_700_000_000.0)
        tags = Tags()
        tags.feed(text)
        self.assertEqual((tags.open, tags.scripts), ([], 0))
        self.assertIn("&lt;script&gt;", text)
        for words in ("revision 3", "200 × 8 × 20/20 ÷ 5 = 320 counts per mm", "emergency stop", "not proven"):
            self.assertIn(words, text)

    def test_what_is_to_settle_stands_in_it(self) -> None:
        text = page_of(report(verge().with_values({at(X, "pace.top_speed"): Fraction(90_000)}), {}), "", 0.0)
        self.assertIn("Must be settled:", text)
        self.assertNotIn("Nothing is left to settle", text)


class Proven(unittest.TestCase):
    def test_each_value_names_the_proofs_that_rest_on_it(self) -> None:
        machine = wired()
        claim = direction_claim(machine, X)
        found = report(machine, {claim.key: evidence(machine, claim, 0.0, True, "it did", Witness.EYES)})
        (line,) = [line for line in found.proofs if line.label == claim.label]
        self.assertEqual(found.proven_by[at(X, "axis.reversed")], str(line.number))
        self.assertNotIn(at(Y, "axis.reversed"), found.proven_by)
        changed = machine.with_values({at(X, "axis.reversed"): not machine[at(X, "axis.reversed")]})
        self.assertEqual(
            report(changed, {claim.key: evidence(machine, claim, 0.0, True, "it did", Witness.EYES)}).proven_by, {}
        )


def full() -> Machine:
    """Every terminal there can be, each with a long name and a long role."""
    values: dict[Address, object] = {}
    for slot in range(32):
        values |= {
            at(slot, "input.terminal"): f"WWWWWWWWWW{slot:02}", at(slot, "input.role"): "home_second",
            at(slot, "input.axis"): "Y",
        }  # fmt: skip
    for slot in range(16):
        values |= {at(slot, "output.terminal"): f"MMMMMMMMMM{slot:02}", at(slot, "output.role"): "spindle_reset"}
    return Machine(("X", "Y"), {}, 32, 16).with_values(values)


class WiringDiagram(unittest.TestCase):
    def test_every_terminal_with_a_role_is_drawn_once_and_the_free_ones_are_told(self) -> None:
        machine = wired()
        texts = [shape.text for shape in diagram(machine).shapes if isinstance(shape, Words)]
        for item in inputs(machine):
            self.assertEqual(texts.count(item.name), int(item.duty.label != "free"), item.name)
        self.assertIn("emergency stop", texts)
        self.assertIn("X home switch", texts)
        self.assertTrue(any(text.startswith("Free: input 8") for text in texts))

    def test_nothing_lies_outside_or_on_something_else(self) -> None:
        for machine in (wired(), full()):
            with self.subTest(machine.inputs):
                self.apart(machine)

    def apart(self, machine: Machine) -> None:
        found = diagram(machine)
        words = [shape for shape in found.shapes if isinstance(shape, Words)]
        boxes = []
        for shape in words:
            wide = min(shape.fit, len(shape.text) * (6.2 if shape.small else 8.0))
            left = shape.x - {"start": 0, "middle": wide / 2, "end": wide}[shape.anchor]
            boxes.append((left, shape.y - 9, left + wide, shape.y, shape.text))
            self.assertGreaterEqual(left, 0, shape.text)
            self.assertLessEqual(left + wide, WIDTH, shape.text)
            self.assertLessEqual(shape.y, found.height)
        for k, (a, b, c, d, text) in enumerate(boxes):
            for e, f, g, h, other in boxes[k + 1 :]:
                self.assertFalse(a < g and e < c and b < h and f < d, f"{text} lies on {other}")

    def test_a_contact_shows_how_it_stands_at_rest(self) -> None:
        def strokes(rest: str) -> int:
            machine = Machine(("X",), {}, 1, 0).with_values({at(0, "input.role"): "probe", at(0, "input.rest"): rest})
            return sum(isinstance(shape, Stroke) for shape in diagram(machine).shapes)

        self.assertEqual(strokes("closed") - strokes("open"), 1)

    def test_a_row_for_every_terminal_that_there_can_be(self) -> None:
        found = diagram(full())
        names = [shape.text for shape in found.shapes if isinstance(shape, Words) and shape.bold]
        self.assertEqual(len([name for name in names if name[:3] in ("WWW", "MMM")]), 48)
        self.assertTrue(all(shape.y < found.height for shape in found.shapes if isinstance(shape, Words)))
        page = page_of(report(full(), {}), "revision 1", 0.0, wiring_only=True)
        self.assertGreaterEqual(page.count('lengthAdjust="spacingAndGlyphs"'), 48)


class Paper(unittest.TestCase):
    def test_pdf_on_both_papers(self) -> None:
        """Where the system cannot set text, the sentence says what it lacks."""
        for paper in PAPERS:
            try:
                data = pdf(report(wired(), {}), "revision 1", 0.0, paper, wiring_only=True)
            except IdlerError as why:
                self.assertIn("apt-get install libpango", why.sentence)
                continue
            self.assertTrue(data.startswith(b"%PDF"))

    def test_no_line_is_cut(self) -> None:
        """Long trains, points and names stay on their paper."""
        try:
            import weasyprint
        except OSError:
            self.skipTest("the system cannot set text")
        train = parse_stages("20 to 40 teeth; " * 6 + "20 to 41 teeth")
        machine = Machine(("X",), {}, 1, 1).with_values({
            at(None, "names.machine"): "W" * 48, at(X, "chain.stages"): train,
            at(0, "range.points"): "5 60, 10 300, 20 600, 30 900, 40 1200, 50 1800, 60 2200, 70 2800, 80 3300",
        })  # fmt: skip
        page = page_of(report(machine, {}), "Revision 1, " + "a long note " * 20, 0.0, "A4")
        for sheet in weasyprint.HTML(string=page).render().pages:
            for box in sheet._page_box.descendants():
                if text := getattr(box, "text", ""):
                    self.assertGreaterEqual(box.position_x, 0, text)
                    self.assertLessEqual(box.position_x + box.width, sheet.width + 0.5, text)

    def test_nothing_is_fetched_for_a_page(self) -> None:
        name = '<img src="file:///etc/passwd">'
        machine = wired().with_values({at(None, "names.machine"): name})
        self.assertNotIn("<img", page_of(report(machine, {}), "revision 1", 0.0))

    def test_the_sheet_for_the_cabinet_holds_the_wiring_alone(self) -> None:
        page = page_of(report(wired(), {}), "revision 1", 0.0, wiring_only=True)
        self.assertIn("wiring diagram", page)
        self.assertNotIn("Every value", page)
