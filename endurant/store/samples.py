"""Samples of a run on disk: columns of float64, compressed, with a hash of what they were."""

from __future__ import annotations

import hashlib
import json
import zlib
from typing import Any

import numpy as np
from numpy.typing import NDArray

COLUMNS = ("time_s", "extension_mm", "force_n")
"""The columns of a stored run, in the order they are packed."""

Table = NDArray[np.float64]
"""Shape (samples, 3)."""


def pack(table: Table) -> bytes:
    """Compress a table of samples."""
    return zlib.compress(np.ascontiguousarray(table, dtype="<f8").tobytes(), level=6)


def unpack(packed: bytes) -> Table:
    """The table that `pack` was given."""
    plain = np.frombuffer(zlib.decompress(packed), dtype="<f8")
    return plain.reshape(-1, len(COLUMNS)).astype(np.float64)


def sha256(table: Table) -> str:
    """Hash of the samples themselves, whatever they were compressed with."""
    return hashlib.sha256(np.ascontiguousarray(table, dtype="<f8").tobytes()).hexdigest()


def pack_entry(entry: dict[str, Any]) -> tuple[bytes, str]:
    """Readings of one specimen as canonical JSON, compressed, and the SHA-256 of that JSON."""
    text = json.dumps(entry, sort_keys=True, separators=(",", ":"), ensure_ascii=False).encode()
    return zlib.compress(text, level=6), hashlib.sha256(text).hexdigest()


def unpack_entry(packed: bytes) -> dict[str, Any]:
    """The readings that `pack_entry` was given."""
    entry: dict[str, Any] = json.loads(zlib.decompress(packed))
    return entry


def entry_sha256(packed: bytes) -> str:
    """Hash of packed readings as they are now."""
    return hashlib.sha256(zlib.decompress(packed)).hexdigest()
