"""The book of seals that a verification keeps on disk."""

from __future__ import annotations

from endurant.store.seal_book import SealBook


def test_the_newest_seal_of_a_fact_stands() -> None:
    with SealBook() as book:
        book.update({"run 1": "a", "run 2": "b"})
        book.update({"run 1": "c"})
        assert book.look_up("run 1") == "c"
        assert book.look_up("run 9") is None


def test_what_was_sealed_and_never_looked_up_is_missing_in_order() -> None:
    with SealBook() as book:
        book.update({"run 3": "a", "run 1": "b", "run 2": "c"})
        book.look_up("run 2")
        assert list(book.unseen()) == ["run 1", "run 3"]


def test_a_fact_that_was_taken_away_is_known_and_not_missing() -> None:
    with SealBook() as book:
        book.update({"run 1": "a"})
        book.update({"run 1": None})
        assert "run 1" in book
        assert "run 2" not in book
        assert list(book.unseen()) == []
        assert book.look_up("run 1") is None
