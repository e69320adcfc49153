"""The XML of slides without what shows nowhere.

Sources: ECMA-376 part 1, 20.1.9 (custom geometry and its connection sites), 21.1.2 (text).
"""

import unittest

from lxml import etree

from lighten.formats.pptx.clean_slide import clean_slide, without_sites, without_traces
from lighten.model.kinds import ExtraKind

_NAMES = " ".join(
    f'xmlns:{prefix}="{uri}"'
    for prefix, uri in {
        "p": "http://schemas.openxmlformats.org/presentationml/2006/main",
        "a": "http://schemas.openxmlformats.org/drawingml/2006/main",
        "r": "http://schemas.openxmlformats.org/officeDocument/2006/relationships",
        "p14": "http://schemas.microsoft.com/office/powerpoint/2010/main",
        "a16": "http://schemas.microsoft.com/office/drawing/2014/main",
    }.items()
)
_GEOMETRY = (
    "<p:spPr><a:custGeom><a:gdLst>"
    '<a:gd name="w2" fmla="*/ w 1 2"/><a:gd name="site0" fmla="+- w2 0 0"/>'
    '<a:gd name="used" fmla="*/ h 1 3"/></a:gdLst>'
    '<a:cxnLst><a:cxn ang="0"><a:pos x="site0" y="0"/></a:cxn></a:cxnLst>'
    '<a:pathLst><a:path><a:moveTo><a:pt x="0" y="used"/></a:moveTo></a:path></a:pathLst>'
    "</a:custGeom></p:spPr>"
)


def slide(inside: str, after: str = "") -> bytes:
    return f"<p:sld {_NAMES}><p:cSld><p:spTree>{inside}</p:spTree></p:cSld>{after}</p:sld>".encode()


def shape(number: int, inside: str) -> str:
    return f'<p:sp><p:nvSpPr><p:cNvPr id="{number}" name="s"/></p:nvSpPr>{inside}</p:sp>'


class Traces(unittest.TestCase):
    def test_traces_go_with_the_lists_that_held_only_them(self) -> None:
        traced = slide(
            '<p:sp><p:nvSpPr><p:cNvPr id="2" name="s"><a:extLst><a:ext uri="{FF2B}">'
            '<a16:creationId id="x"/></a:ext></a:extLst></p:cNvPr></p:nvSpPr>'
            '<p:txBody><a:p><a:r><a:rPr lang="en" dirty="0" err="1"/><a:t>Fen</a:t></a:r></a:p>'
            "</p:txBody></p:sp>"
        )
        cleaned = clean_slide(traced, dropped={ExtraKind.EDITING_TRACES})
        for gone in (b"creationId", b"extLst", b"dirty", b"err="):
            self.assertNotIn(gone, cleaned)
        self.assertIn(b'lang="en"', cleaned)
        self.assertLess(len(without_traces(traced)), len(traced))
        self.assertIn(b"creationId", clean_slide(traced, dropped=()))


class Sites(unittest.TestCase):
    def test_sites_go_with_the_sums_that_only_they_needed(self) -> None:
        cleaned = without_sites(slide(shape(2, _GEOMETRY)))
        for gone in (b"cxnLst", b"site0", b'name="w2"'):
            self.assertNotIn(gone, cleaned)
        self.assertIn(b'name="used"', cleaned)

    def test_sites_stay_where_a_line_is_fastened(self) -> None:
        line = '<p:cxnSp><p:nvCxnSpPr><p:cNvCxnSpPr><a:stCxn id="2" idx="0"/></p:cNvCxnSpPr>'
        line += "</p:nvCxnSpPr></p:cxnSp>"
        drawn = slide(shape(2, _GEOMETRY) + shape(3, _GEOMETRY) + line)
        self.assertEqual(without_sites(drawn).count(b"<a:cxnLst>"), 1)


class Runs(unittest.TestCase):
    def joined(self, *runs: str) -> list[str]:
        text = f"<p:txBody><a:p>{''.join(runs)}</a:p></p:txBody>"
        root = etree.fromstring(clean_slide(slide(shape(2, text)), dropped=()))
        return [element.text for element in root.iter("{*}t")]

    def test_runs_that_look_alike_become_one(self) -> None:
        bold = '<a:r><a:rPr b="1"/><a:t>{}</a:t></a:r>'
        plain = "<a:r><a:t>{}</a:t></a:r>"
        runs = [bold.format("Net "), bold.format("3"), plain.format(", "), plain.format("open")]
        self.assertEqual(self.joined(*runs), ["Net 3", ", open"])

    def test_runs_with_a_break_or_a_field_between_stay_two(self) -> None:
        run = "<a:r><a:t>Net</a:t></a:r>"
        self.assertEqual(self.joined(run, "<a:br/>", run), ["Net", "Net"])


class Media(unittest.TestCase):
    def test_steps_that_play_what_went_go_and_others_stay(self) -> None:
        film = (
            '<p:pic><p:nvPicPr><p:cNvPr id="4" name="f"><a:hlinkClick r:id="" '
            'action="ppaction://media"/></p:cNvPr><p:nvPr><a:videoFile r:link="rId2"/></p:nvPr>'
            "</p:nvPicPr></p:pic>"
        )
        step = (
            "<p:par><p:cTn><p:childTnLst><p:{0}><p:cBhvr><p:tgtEl>"
            '<p:spTgt spid="{1}"/></p:tgtEl></p:cBhvr></p:{0}></p:childTnLst></p:cTn></p:par>'
        )
        timing = (
            "<p:timing><p:tnLst><p:par><p:cTn><p:childTnLst>"
            f"{step.format('cmd', 4)}{step.format('set', 2)}"
            '<p:video><p:cMediaNode><p:tgtEl><p:spTgt spid="4"/></p:tgtEl></p:cMediaNode></p:video>'
            "</p:childTnLst></p:cTn></p:par></p:tnLst></p:timing>"
        )
        drawn = slide(film + shape(2, ""), timing)
        cleaned = clean_slide(drawn, dropped=(), gone=("rId2",))
        for gone in (b"p:cmd", b"p:video", b"videoFile", b"ppaction://media", b'spid="4"'):
            self.assertNotIn(gone, cleaned)
        self.assertIn(b'spid="2"', cleaned)
        alone = slide(film, timing.replace(step.format("set", 2), ""))
        self.assertNotIn(b"timing", clean_slide(alone, dropped=(), gone=("rId2",)))

    def test_the_sound_of_a_transition_goes_and_the_transition_stays(self) -> None:
        sound = '<p:sndAc><p:stSnd><p:snd r:embed="rId7" name="a.wav"/></p:stSnd></p:sndAc>'
        drawn = slide("", f"<p:transition><p:fade/>{sound}</p:transition>")
        cleaned = clean_slide(drawn, dropped=(), gone=("rId7",))
        self.assertNotIn(b"snd", cleaned)
        self.assertIn(b"<p:fade/>", cleaned)
