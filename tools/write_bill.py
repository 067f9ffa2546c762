"""Writes what Pale Harbor runs with: bill-of-materials.json (CycloneDX) and docs/licences.md.

PYTHONPATH=. python tools/write_bill.py

Packages of Python as they are installed, those that the program needs and whatever these need; packages of the page
as its lock file has them. What is for tests and tools alone is left out.
"""

import json
import re
from collections.abc import Iterator
from dataclasses import dataclass
from importlib.metadata import Distribution, PackageNotFoundError, distribution
from pathlib import Path
from typing import Any, Final

from cyclonedx.model.bom import Bom
from cyclonedx.model.component import Component, ComponentType
from cyclonedx.model.license import DisjunctiveLicense
from cyclonedx.output.json import JsonV1Dot6
from packageurl import PackageURL
from packaging.requirements import Requirement

from pale_harbor import __version__

ROOT: Final = Path(__file__).parent.parent
BILL: Final = ROOT / "bill-of-materials.json"
LICENCES: Final = ROOT / "docs/licences.md"
# Said by a package itself where it names no licence of SPDX: the words of trove classifiers, and their names there.
_CLASSIFIED: Final = {
    "MIT License": "MIT",
    "BSD License": "BSD",
    "Apache Software License": "Apache-2.0",
    "Mozilla Public License 2.0 (MPL 2.0)": "MPL-2.0",
    "Python Software Foundation License": "PSF-2.0",
    "ISC License (ISCL)": "ISC",
    "GNU Lesser General Public License v3 (LGPLv3)": "LGPL-3.0-only",
}


@dataclass(frozen=True, slots=True, order=True)
class Part:
    """A package. kind: pypi or npm."""

    kind: str
    name: str
    version: str
    licence: str


def parts() -> list[Part]:
    """Everything that Pale Harbor runs with, by kind and name."""
    return sorted({*_of_python(), *_of_the_page()})


def _of_python() -> Iterator[Part]:
    project = (ROOT / "pyproject.toml").read_text("utf-8")
    needed = re.search(r"^dependencies = \[(.*?)^\]", project, re.MULTILINE | re.DOTALL)
    assert needed is not None
    waiting = [Requirement(one) for one in re.findall(r'"([^"]+)"', needed[1])]
    seen: set[tuple[str, str]] = set()
    while waiting:
        wanted = waiting.pop()
        try:
            found = distribution(wanted.name)
        except PackageNotFoundError:
            # For another system or another Python.
            continue
        for extra in ("", *wanted.extras):
            if (found.name, extra) in seen:
                continue
            seen.add((found.name, extra))
            for line in found.requires or []:
                further = Requirement(line)
                if further.marker is None or further.marker.evaluate({"extra": extra}):
                    waiting.append(further)
        yield Part("pypi", found.name.lower().replace("_", "-"), found.version, _licence(found))


def _licence(found: Distribution) -> str:
    said = found.metadata.get("License-Expression") or ""
    if said:
        return said
    classified = [
        _CLASSIFIED.get(words, words)
        for line in found.metadata.get_all("Classifier") or []
        if line.startswith("License :: ") and (words := line.rpartition(" :: ")[2]) != "OSI Approved"
    ]
    short = (found.metadata.get("License") or "").strip().splitlines()
    return " AND ".join(dict.fromkeys(classified)) or (short[0][:60] if short else "see the package")


def _of_the_page() -> Iterator[Part]:
    lock: dict[str, Any] = json.loads((ROOT / "frontend/package-lock.json").read_text("utf-8"))
    for place, package in lock["packages"].items():
        if place and not package.get("dev") and not package.get("optional"):
            name = place.rpartition("node_modules/")[2]
            yield Part("npm", name, package["version"], package.get("license", "see the package"))


def bill_text() -> str:
    """The bill of materials as it is committed: without a moment and a number of its own, so that alike is alike."""
    bom = Bom(components=[_component(part) for part in parts()])
    bom.metadata.component = Component(
        name="pale-harbor", version=__version__, type=ComponentType.APPLICATION, bom_ref="pale-harbor"
    )
    bom.register_dependency(bom.metadata.component, bom.components)
    told = json.loads(JsonV1Dot6(bom).output_as_string())
    told["metadata"].pop("timestamp")
    told.pop("serialNumber")
    return json.dumps(told, indent=1, sort_keys=True) + "\n"


def _component(part: Part) -> Component:
    space, _, name = part.name.rpartition("/")
    return Component(
        name=name,
        group=space or None,
        version=part.version,
        type=ComponentType.LIBRARY,
        bom_ref=f"{part.kind}:{part.name}@{part.version}",
        purl=PackageURL(type=part.kind, namespace=space or None, name=name, version=part.version),
        licenses=[DisjunctiveLicense(name=part.licence)],
    )


def licences_text() -> str:
    """The table of licences as it is committed."""
    kinds = {"pypi": "Packages of Python", "npm": "Packages of the page"}
    lines = [
        "# Licences",
        "",
        "What Pale Harbor runs with, and under which licences, as the packages say themselves. As CycloneDX JSON:",
        "[bill-of-materials.json](../bill-of-materials.json). Both are written by `tools/write_bill.py`. Beside them",
        "it needs PostgreSQL (PostgreSQL licence); the fonts Noto Sans and Source Code Pro (SIL Open Font License 1.1)",
        "are packages of the page.",
        "",
    ]
    for kind, title in kinds.items():
        lines += [f"## {title}", "", "| package | version | licence |", "|---|---|---|"]
        lines += [f"| {part.name} | {part.version} | {part.licence} |" for part in parts() if part.kind == kind]
        lines.append("")
    return "\n".join(lines)


if __name__ == "__main__":
    BILL.write_text(bill_text(), "utf-8")
    LICENCES.write_text(licences_text(), "utf-8")
