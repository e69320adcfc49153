"""The store of codings: bounded, shared by processes, and never in the way."""

import multiprocessing
import time
from pathlib import Path

from lighten.pictures.recoding.coding_cache import CodingCache
from tests.builders import FolderCase


def put_many(path: str, name: str) -> None:
    store = CodingCache(Path(path), most_bytes=1_000_000)
    for number in range(25):
        store.put(f"{name} {number}", name.encode() * 100)


class Store(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.path = self.folder / "below" / "codings"
        self.store = CodingCache(self.path, most_bytes=10_000)

    def test_store_gives_back_what_was_put(self) -> None:
        self.assertIsNone(self.store.get("one"))
        self.store.put("one", b"\x00\xffbytes")
        self.assertEqual(self.store.get("one"), b"\x00\xffbytes")
        self.store.put("one", b"others")
        self.assertEqual(self.store.get("one"), b"others")

    def test_another_store_of_the_same_file_sees_it(self) -> None:
        self.store.put("one", b"bytes")
        self.assertEqual(CodingCache(self.path, most_bytes=10_000).get("one"), b"bytes")

    def test_the_least_recently_used_entry_is_evicted(self) -> None:
        for number in range(10):
            self.store.put(str(number), bytes(1000))
            time.sleep(0.002)
        self.assertIsNotNone(self.store.get("0"))  # used again
        self.store.put("more", bytes(900))
        self.assertIsNotNone(self.store.get("0"))
        self.assertIsNone(self.store.get("1"))
        kept = [number for number in range(10) if self.store.get(str(number)) is not None]
        self.assertLessEqual(len(kept) * 1000 + 900, 10_000)

    def test_an_entry_as_large_as_the_cache_is_not_stored(self) -> None:
        self.store.put("huge", bytes(2000))
        self.assertIsNone(self.store.get("huge"))

    def test_a_broken_file_behaves_as_an_empty_store(self) -> None:
        self.path.parent.mkdir()
        self.path.write_bytes(b"no database at all" * 100)
        self.store.put("one", b"bytes")
        self.assertIsNone(self.store.get("one"))

    def test_several_processes_may_write_at_once(self) -> None:
        context = multiprocessing.get_context("spawn")
        names = ("reed", "sedge", "marsh")
        writers = [context.Process(target=put_many, args=(str(self.path), name)) for name in names]
        for writer in writers:
            writer.start()
        for writer in writers:
            writer.join(60)
        store = CodingCache(self.path, most_bytes=1_000_000)
        for name in names:
            for number in range(25):
                self.assertEqual(store.get(f"{name} {number}"), name.encode() * 100)
