"""Texts as vectors of what their words mean, by fixed vectors of word pieces that a library ships."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from importlib.util import find_spec
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from safetensors.numpy import load_file
from scipy.sparse import csr_matrix
from tokenizers import Tokenizer

_BATCH = 2000
_LONGEST = 20_000
"""Characters of a text that are looked at."""


@lru_cache(maxsize=1)
def _pieces() -> tuple[Tokenizer, NDArray[np.float32]]:
    """What parts a text into word pieces, and the vector of each piece. Read from the package's files: to import it would set up logging and a network client."""
    spec = find_spec("wordllama")
    assert spec
    folder = Path(str(spec.origin)).parent
    tokenizer = Tokenizer.from_file(str(folder / "tokenizers" / "l2_supercat_tokenizer_config.json"))
    tokenizer.no_padding()
    tokenizer.no_truncation()
    (vectors,) = load_file(folder / "weights" / "l2_supercat_256.safetensors").values()
    return tokenizer, vectors.astype(np.float32)


def meanings(texts: Sequence[str]) -> NDArray[np.float32]:
    """Each text as the mean of the vectors of its word pieces, less the mean of all texts, of length 1: shape (n, 256); 0 for an empty text.

    The vectors are those of wordllama (256 dimensions).
    """
    tokenizer, vectors = _pieces()
    out = np.zeros((len(texts), vectors.shape[1]), np.float32)
    for begin in range(0, len(texts), _BATCH):
        chunk = [text[:_LONGEST] for text in texts[begin : begin + _BATCH]]
        ids = [encoding.ids for encoding in tokenizer.encode_batch_fast(chunk, add_special_tokens=False)]
        lengths = np.array([len(one) for one in ids], np.int64)
        flat = np.fromiter((number for one in ids for number in one), np.int32, int(lengths.sum()))
        ends = np.concatenate([[0], np.cumsum(lengths)])
        counts = csr_matrix((np.ones(len(flat), np.float32), flat, ends), shape=(len(chunk), len(vectors)))
        out[begin : begin + len(chunk)] = (counts @ vectors) / np.maximum(lengths, 1)[:, None]
    filled = np.array([bool(text.strip(" .")) for text in texts], bool)
    if filled.sum() > 1:
        out[filled] -= out[filled].mean(axis=0)
    out[~filled] = 0
    length = np.linalg.norm(out, axis=1, keepdims=True)
    return np.asarray(out / np.where(length > 0, length, 1), np.float32)
