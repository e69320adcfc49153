"""Pieces of a copy, read by libraries that had no part in cutting it."""

import subprocess
from pathlib import Path

import pikepdf
import pypdf

from lighten import Source, weigh
from lighten.making.split_pages import split_copy
from lighten.model.errors import DoesNotFitError
from tests.builders import FolderCase
from tests.core.making.test_run_trials import album


class Splitting(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.source = album(self.folder / "album.pdf")
        self.limit = self.source.path.stat().st_size * 45 // 100
        self.pieces = split_copy(self.source, "pdf", self.limit, self.folder / "album-light.pdf")

    def drawn(self, path: Path) -> list[bytes]:
        """Every page by poppler, as it is."""
        out = self.folder / f"drawn-{path.stem}"
        out.mkdir()
        subprocess.run(["pdftoppm", "-r", "40", path, out / "p"], check=True)
        return [page.read_bytes() for page in sorted(out.iterdir())]

    def test_each_fits_and_no_page_is_lost_or_twice(self) -> None:
        self.assertGreater(len(self.pieces), 1)
        covered = [page for one in self.pieces for page in range(one.first, one.last + 1)]
        self.assertEqual(covered, list(range(1, 7)))
        for number, piece in enumerate(self.pieces, start=1):
            self.assertLessEqual(piece.path.stat().st_size, self.limit)
            self.assertEqual(piece.path.name, f"album-light-{number}-of-{len(self.pieces)}.pdf")

    def test_splitting_put_together_they_show_what_the_whole_showed(self) -> None:
        whole = self.drawn(self.source.path)
        parts = [page for piece in self.pieces for page in self.drawn(piece.path)]
        self.assertEqual(whole, parts)

    def test_bookmarks_stay_where_they_lead_into_the_piece(self) -> None:
        titles = []
        for piece in self.pieces:
            reader = pypdf.PdfReader(piece.path)
            for entry in reader.outline:
                page = reader.get_destination_page_number(entry)
                self.assertEqual(entry.title, f"To {piece.first - 1 + page}")
                titles.append(entry.title)
        self.assertEqual(titles, [f"To {page}" for page in range(6)])

    def test_pieces_are_sound(self) -> None:
        for piece in self.pieces:
            subprocess.run(["qpdf", "--check", piece.path], check=True, capture_output=True)
            self.assertEqual(weigh(Source(path=piece.path)).pages, piece.last - piece.first + 1)

    def test_a_page_that_is_too_heavy_by_itself_is_said(self) -> None:
        with self.assertRaises(DoesNotFitError) as refused:
            split_copy(self.source, "pdf", 5000, self.folder / "tiny.pdf")
        self.assertIn("page 1 alone", refused.exception.message)
        self.assertEqual(list(self.folder.glob("tiny*")), [])


class Excerpts(FolderCase):
    def test_links_fields_and_tags_of_other_pages_go(self) -> None:
        source = album(self.folder / "album.pdf")
        with pikepdf.open(source.path, allow_overwriting_input=True) as pdf:
            pages = [page.obj for page in pdf.pages]
            links = [
                pdf.make_indirect(
                    pikepdf.Dictionary(
                        Type=pikepdf.Name.Annot,
                        Subtype=pikepdf.Name.Link,
                        Rect=[0, 0, 9, 9],
                        Dest=[pages[target], pikepdf.Name.Fit],
                    )
                )
                for target in (1, 5)
            ]
            pages[0].Annots = pikepdf.Array(links)
            elements = [
                pdf.make_indirect(pikepdf.Dictionary(S=pikepdf.Name.P, Pg=page, K=0))
                for page in (pages[0], pages[5])
            ]
            pages[0].StructParents, pages[5].StructParents = 0, 1
            pdf.Root.StructTreeRoot = pdf.make_indirect(
                pikepdf.Dictionary(
                    Type=pikepdf.Name.StructTreeRoot,
                    K=pikepdf.Array(elements),
                    ParentTree=pikepdf.Dictionary(Nums=[0, [elements[0]], 1, [elements[1]]]),
                )
            )
            pdf.save()
        from lighten.registry import format_named

        out = self.folder / "first.pdf"
        format_named("pdf").excerpt(source, 1, 2, out)
        with pikepdf.open(out) as piece:
            self.assertEqual(len(piece.pages), 2)
            self.assertEqual(len(piece.pages[0].Annots), 1)
            tree = piece.Root.StructTreeRoot
            self.assertEqual(len(tree.K), 1)
            self.assertEqual([int(key) for key in list(tree.ParentTree.Nums)[::2]], [0])
        # What only the other pages used weighs nothing here.
        self.assertLess(out.stat().st_size, source.path.stat().st_size * 0.5)
