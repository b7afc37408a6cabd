"""`make bench`: how long the computing takes, beside a plain script that does the same sum."""

from __future__ import annotations

import statistics
import time
import tracemalloc
from collections.abc import Callable
from typing import Any

import numpy as np
from scipy.signal import find_peaks, peak_prominences

from endurant.core.document import analyse, read_document
from endurant.core.simulate.traces import simulated_document, traced_methods

REPEATS = 5
SPECIMENS, SAMPLES, MAX_SAMPLES = 5, 20_000, 1_000_000
GROWTH = ("iso-13937-2", "iso-527", "iso-13936-1")


def main() -> None:
    """Print the tables."""
    print(f"5 specimens x 20000 samples: read and computed\n{heading()}")
    for method in traced_methods():
        row(method, simulated_document(method, SPECIMENS, SAMPLES))
    print(f"\none trace of 1000000 samples: read and computed\n{heading()}{'most, MB':>11}")
    for method in traced_methods():
        document = simulated_document(method, 1, MAX_SAMPLES)
        row(method, document, f"{max_mb(document):>11.0f}")
    print("\ngrowth, ms")
    for method in GROWTH:
        times = [
            median_ms(timed(simulated_document(method, 1, samples)))
            for samples in (1_000, 10_000, 100_000, 1_000_000)
        ]
        print(f"{method:<16}" + "".join(f"{time:>10.1f}" for time in times))


def heading() -> str:
    """The head of a table."""
    return f"{'method':<16}{'read, ms':>10}{'analyse':>10}{'plain':>10}{'ratio':>8}"


def timed(document: dict[str, Any]) -> Callable[[], Any]:
    """Reading and computing a document."""
    return lambda: analyse(read_document(document))


def row(method: str, document: dict[str, Any], more: str = "") -> None:
    """One line: a document against numpy and scipy on its lists of numbers."""
    read = median_ms(lambda: read_document(document))
    ready = read_document(document)
    computed = median_ms(lambda: analyse(ready))
    plain = median_ms(lambda: plain_sum(method, document))
    ratio = (read + computed) / plain
    print(f"{method:<16}{read:>10.1f}{computed:>10.1f}{plain:>10.1f}{ratio:>8.2f}{more}")


def max_mb(document: dict[str, Any]) -> float:
    """Most memory taken while a document is read and computed, in MB, beyond the document."""
    tracemalloc.start()
    analyse(read_document(document))
    _, upper = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    return upper / 1e6


def plain_sum(method: str, document: dict[str, Any]) -> list[float]:
    """The heart of the same figures by a plain script: no checks, flags, working or marks."""
    numbers = []
    for specimen in document["specimens"]:
        traces = [value for name, value in specimen.items() if name.startswith("trace")]
        for trace in traces:
            x = np.asarray(
                trace.get("extension_mm") or trace.get("displacement_mm") or trace["time_s"]
            )
            f = np.asarray(trace.get("force_n") or trace["pressure_kpa"])
            if method in ("iso-13937-2", "astm-d2261", "astm-d624", "iso-34-1"):
                tops, _ = find_peaks(f)
                tops = tops[f[tops] >= 0.05 * f.max()]
                tops = tops[peak_prominences(f, tops)[0] >= 0.10 * f[tops]]
                numbers.append(float(f[tops].mean()))
            elif method in ("iso-13936-1", "iso-13936-2"):
                top = np.maximum.accumulate(f)
                numbers.append(float(np.interp(180, top, x)))
            elif method in ("iso-527", "astm-d638", "astm-d882", "astm-e8"):
                strain = np.asarray(trace.get("strain") or x / 100)
                inside = (strain >= 0.0005) & (strain <= 0.0025)
                numbers.append(float(np.polyfit(strain[inside], f[inside], 1)[0]))
                numbers.append(float(f.max()))
                tops, _ = find_peaks(f, prominence=0.01 * f.max())
                numbers.append(float(tops.size))
            else:
                numbers.append(float(np.trapezoid(f, x)))
                numbers.append(float(f.max()))
    return numbers


def median_ms(work: Callable[[], Any]) -> float:
    """Median of a few runs in milliseconds, after one that warms up."""
    work()
    times = []
    for _ in range(REPEATS):
        began = time.perf_counter()
        work()
        times.append(1000 * (time.perf_counter() - began))
    return statistics.median(times)


if __name__ == "__main__":
    main()
