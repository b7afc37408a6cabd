"""`make bench`: how long the computing takes, beside a plain script that does the same sum."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from typing import Any

import numpy as np
from scipy.signal import find_peaks, peak_prominences

from endurant.core.document import analyse, read_document
from endurant.core.simulate.tear import TearSpecimen, sample_tear

REPEATS = 7


def main() -> None:
    """Print the table."""
    print(f"{'what':<44}{'ours, ms':>10}{'plain, ms':>11}{'ratio':>8}")
    for samples in (1_000, 10_000, 100_000, 1_000_000):
        document = tear_document(1, samples)
        row(f"trouser tear, 1 trace of {samples} samples", document)
    row("trouser tear, 5 traces of 20000 samples", tear_document(5, 20_000))


def tear_document(specimens: int, samples: int) -> dict[str, Any]:
    """Simulated specimens, sampled so finely that the trace has this many samples."""
    base = sample_tear(TearSpecimen(1), 150, rate_hz=50)
    x = np.linspace(0, 150, samples)
    noise = np.random.default_rng(1).normal(0, 0.01, samples)
    force = np.interp(x, base["extension_mm"], base["force_n"]) + noise
    trace = {"extension_mm": x.tolist(), "force_n": force.tolist()}
    return {
        "method": "iso-13937-2",
        "specimens": [
            {"label": f"W{n}", "direction": "warp", "trace": trace} for n in range(1, specimens + 1)
        ],
    }


def row(name: str, document: dict[str, Any]) -> None:
    """One line: reading and computing a document, against numpy and scipy on its arrays."""
    ours = median_ms(lambda: analyse(read_document(document)))
    plain = median_ms(lambda: plain_sum(document))
    print(f"{name:<44}{ours:>10.1f}{plain:>11.1f}{ours / plain:>8.2f}")


def plain_sum(document: dict[str, Any]) -> list[float]:
    """The same tear forces by a plain script, without checks, flags, working or marks."""
    found = []
    for specimen in document["specimens"]:
        x = np.asarray(specimen["trace"]["extension_mm"])
        f = np.asarray(specimen["trace"]["force_n"])
        tops, _ = find_peaks(f)
        tops = tops[f[tops] >= 0.05 * f.max()]
        tops = tops[peak_prominences(f, tops)[0] >= 0.10 * f[tops]]
        start = x[tops[0]] + (x[tops[-1]] - x[tops[0]]) / 4
        found.append(float(f[tops][x[tops] > start].mean()))
    return found


def median_ms(act: Callable[[], object]) -> float:
    """Median of several runs, in milliseconds."""
    times = []
    for _ in range(REPEATS):
        begun = time.perf_counter()
        act()
        times.append(1000 * (time.perf_counter() - begun))
    return statistics.median(times)


if __name__ == "__main__":
    main()
