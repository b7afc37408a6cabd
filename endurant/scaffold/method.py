"""A new method like one that exists: its module, example, simulation and test, all of which pass.

The new module takes everything from the method it is like, so that it works from the first
minute; what differs is then written over it, one part after another.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from pathlib import Path

from endurant.core.methods import MODULES, find_method
from endurant.core.refusals import Conflict, Invalid
from endurant.core.simulate.traces import simulated_method
from endurant.scaffold.guide_texts import write_texts

STEPS = """\
1. Run `make test`. Everything passes: ID does what OTHER does.
2. In the module, state what ID measures. Give it its title and its family.
3. Write the page in `core/methods/texts/ID.toml`: purpose, specimen, steps, computes, mistakes.
   In the module, replace count, blank, atmosphere, measures, ready checks and cautions.
4. Declare the parameters that differ, each with its unit in its name, bounds, default and
   description.
5. Declare the readings when a specimen is read in another way, and write `analyse` for them.
6. State the properties with unit and rounding. Change `review`, `together` and `summarise` where
   the standard asks for it.
7. Replace the figures of the worked examples by figures that you have computed another way.
8. Replace the shape of the simulated specimens when another specimen is pulled.
9. Add a test for every branch that the worked examples do not take. Run `make test` again.
"""

ID = re.compile(r"[a-z0-9]+(-[a-z0-9]+)*")
LONGEST_ID = 40


@dataclass(frozen=True)
class NewMethod:
    """The id of a method to be, of the one that it is like, and the folder of the source."""

    id: str
    like: str
    root: Path

    @property
    def module(self) -> str:
        """The name of its module; one that would begin with a digit begins with an m."""
        name = self.id.replace("-", "_")
        return f"m_{name}" if name[0].isdigit() else name

    def files(self) -> dict[Path, str]:
        """Every file to be written, by its path, with its text."""
        core = self.root / "endurant" / "core"
        written = {
            core / "methods" / f"{self.module}.py": self._module(),
            core / "methods" / "texts" / f"{self.id}.toml": write_texts(
                find_method(self.like).guide
            ),
            self.root / "endurant/work/views/examples" / f"{self.id}.json": self._shown_example(),
            self.root / "tests/core/methods" / f"test_{self.module}.py": self._test(),
        }
        if simulated_method(self.like) is not None:
            written[core / "simulate/specimens" / f"{self.module}.py"] = self._simulation()
        folder = self.root / "tests" / "examples"
        for path in sorted(folder.glob(f"{self.like}--*.json")):
            name = path.name.replace(self.like, self.id, 1)
            written[folder / name] = self._with_id(path.read_text())
        return written

    def _with_id(self, text: str) -> str:
        return text.replace(f'"{self.like}"', f'"{self.id}"')

    def _shown_example(self) -> str:
        return self._with_id(
            (self.root / "endurant/work/views/examples" / f"{self.like}.json").read_text()
        )

    def _module(self) -> str:
        title = find_method(self.like).title
        return f'''"""{self.id}: state here what it measures, in one sentence."""

from __future__ import annotations

from dataclasses import replace

from endurant.core.methods import {MODULES[self.like]} as like
from endurant.core.methods.guide_texts import guide_texts

LIKE = like.METHODS["{self.like}"]

GUIDE = replace(
    LIKE.guide,
    **guide_texts("{self.id}"),
    # Replace what differs: count_per_direction, blank, atmosphere, ready_checks, cautions, live.
)


class Parameters(LIKE.parameters):  # type: ignore[misc, name-defined]
    """The parameters of this method; a field declared here takes the place of the inherited one."""


METHODS = {{
    "{self.id}": replace(
        LIKE,
        id="{self.id}",
        title="{title} ({self.id})",
        guide=GUIDE,
        parameters=Parameters,
        # Replace what differs: properties, readings, analyse, review, together, summarise.
    )
}}
'''

    def _simulation(self) -> str:
        return f'''"""Simulated specimens of {self.id}."""

from __future__ import annotations

from endurant.core.simulate.specimens import {MODULES[self.like]} as like

# Replace the shape by one of core/simulate/shapes when the new method pulls another specimen.
SIMULATED = {{"{self.id}": like.SIMULATED["{self.like}"]}}
'''

    def _test(self) -> str:
        return f'''"""Rules of {self.id} that its worked examples do not take."""

from __future__ import annotations

from endurant.core.document import analyse, read_document
from tests.examples import example, names


def test_the_specimens_of_an_example_count() -> None:
    document = example(names("{self.id}--")[0])["document"]
    result = analyse(read_document(document)).as_json()
    assert any(specimen["valid"] for specimen in result["specimens"])
'''


def write_method(method_id: str, like: str, root: Path) -> list[Path]:
    """Write the files of a new method and list it; the paths, relative to `root`.

    Nothing is written over. Raises Invalid for an id that is none or a method that is not known,
    Conflict where a method or a file of that name exists.
    """
    if not ID.fullmatch(method_id) or len(method_id) > LONGEST_ID:
        raise Invalid("new-method.id", method=method_id, max=LONGEST_ID, field="id")
    find_method(like)
    if method_id in MODULES:
        raise Conflict("new-method.exists", method=method_id, module=MODULES[method_id])
    table = root / "endurant/core/methods/__init__.py"
    if not table.is_file():
        raise Invalid("new-method.not-the-source", folder=root, file=table.name)
    new = NewMethod(method_id, like, root)
    files = new.files()
    for path in files:
        if path.exists():
            raise Conflict("new-method.file-exists", file=path.relative_to(root))
    for path, text in files.items():
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(text)
    entry = f'    "{like}": "{MODULES[like]}",\n'
    listed = table.read_text()
    table.write_text(listed.replace(entry, f'{entry}    "{method_id}": "{new.module}",\n', 1))
    return [path.relative_to(root) for path in [*files, table]]


def checklist(method_id: str, like: str) -> str:
    """What is left to do by hand, in its order; `docs/adding-a-method.md` holds the same."""
    return STEPS.replace("ID", method_id).replace("OTHER", like)
