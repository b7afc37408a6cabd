"""The fonts of documents: unpacked once for each thread, and gone with the process."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

TWO_DOCUMENTS = """
import sys
from threading import Thread
from endurant.reports.labels import STOCKS
from endurant.reports.pdf import labels_pdf
from endurant.work.views.labels import JobLabels

NONE = JobLabels(job_number="J-0401", labels=[])

def make():
    for _ in range(2):
        assert labels_pdf(NONE, STOCKS["a4-24"], 0, "http://lab").startswith(b"%PDF")

other = Thread(target=make)
other.start()
other.join()
make()
# Held to the very end of the process, as a debugger or a pool of workers may hold it.
sys.kept = sys.modules["endurant.reports.pdf"]._unpacked
"""


def test_a_process_that_made_documents_ends_without_a_word_and_leaves_no_files(
    tmp_path: Path,
) -> None:
    ended = subprocess.run(
        [sys.executable, "-c", TWO_DOCUMENTS],
        env=os.environ | {"TMPDIR": str(tmp_path)},
        capture_output=True,
        text=True,
        check=False,
    )
    assert (ended.returncode, ended.stdout, ended.stderr) == (0, "", "")
    assert list(tmp_path.iterdir()) == []
