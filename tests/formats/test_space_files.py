"""Spaces as documents, learned spaces as bytes, packaged vectors: checked coming in, the same coming out."""

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray

from pale_harbor.core.index import build_index
from pale_harbor.core.text import chain_of
from pale_harbor.core.vectors import learned_space
from pale_harbor.errors import BadInput
from pale_harbor.formats.learned_files import learned_as_bytes, learned_of_bytes
from pale_harbor.formats.space_document import space_document
from pale_harbor.formats.static_vectors import packaged_vectors
from pale_harbor.formats.vector_files import read_names, read_vectors

PACKAGED = {"source": {"kind": "packaged"}, "fields": ["title"]}


@pytest.mark.parametrize(
    ("changes", "said"),
    [
        ({"fields": []}, 'name it in "fields"'),
        ({"source": {"kind": "brought"}}, "leave out fields and passages"),
        ({"source": {"kind": "magic"}}, "'learned', 'packaged', 'brought', 'service'"),
        ({"source": {"kind": "learned", "dimensions": 1}}, "source.learned.dimensions"),
        ({"source": {"kind": "service", "address": "ftp://x"}}, "source.service.address"),
        ({"source": {"kind": "service", "address": "http://user@x"}}, "source.service.address"),
        ({"source": {"kind": "service", "address": "http://x", "token_variable": "HOME"}}, "token_variable"),
        ({"similarity": "nearness"}, "similarity"),
        ({"colour": "red"}, "colour"),
    ],
)
def test_what_a_space_cannot_be_is_said(changes: dict[str, Any], said: str):
    with pytest.raises(BadInput) as caught:
        space_document(PACKAGED | changes)
    assert said in str(caught.value)


def test_a_document_comes_back_as_it_was():
    document = space_document(PACKAGED | {"passages": {"by": "sentences", "size": 2}})
    assert space_document(document.model_dump(mode="json")) == document


def test_a_learned_space_folds_in_the_same_after_it_was_kept():
    texts = ["fog bell\x00 on the quay", "fog horn", "bell and horn", "a quay in fog", "line\nbreak fog", "line bell"]
    space = learned_space(build_index([[text] for text in texts], chain_of("blanks")), 3)
    again = learned_of_bytes(learned_as_bytes(space))
    assert again.numbers == space.numbers
    for text in texts:
        assert again.folded_in(text.split()).tolist() == space.folded_in(text.split()).tolist()


def test_names_are_as_many_as_vectors(tmp_path: Path):
    names = tmp_path / "names.txt"
    names.write_bytes("\ufeffbell\r\nwhale, white\r\n".encode())
    assert read_names(names, "names.txt", 2) == ["bell", "whale, white"]
    with pytest.raises(BadInput, match="names 2 rows, but there are 3 vectors"):
        read_names(names, "names.txt", 3)
    names.write_bytes(b"\xff\xfe")
    with pytest.raises(BadInput, match="cannot be read as UTF-8"):
        read_names(names, "names.txt", 1)


def test_a_file_that_could_run_something_is_not_opened(tmp_path: Path):
    np.save(tmp_path / "v.npy", np.array([[{"a": 1}]], object), allow_pickle=True)
    with pytest.raises(BadInput, match="can be read"):
        read_vectors(tmp_path / "v.npy", "v.npy")


def test_packaged_vectors_know_what_is_alike():
    vectors = packaged_vectors()
    ship, boat, biscuit, nothing = vectors.vectors_of(["ship", "boat", "biscuit", ""]).astype(np.float64)
    assert vectors.dimensions == ship.size == 256
    assert cosine(ship, boat) > cosine(ship, biscuit) + 0.1
    assert not nothing.any()


def cosine(a: NDArray[np.float64], b: NDArray[np.float64]) -> float:
    return float(a @ b / (np.linalg.norm(a) * np.linalg.norm(b)))


def test_a_text_of_many_words_is_the_mean_of_its_pieces():
    vectors = packaged_vectors()
    whole, *parts = vectors.vectors_of(["fog bell", "fog", "bell"])
    # Both words are one piece each.
    assert whole == pytest.approx(np.mean(parts, axis=0), abs=1e-6)
    words, own = vectors.word_vectors("fog bell fog")
    assert words == ["fog", "bell"]
    assert own == pytest.approx(np.array(parts), abs=1e-6)
