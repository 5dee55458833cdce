"""The ``drill`` command: drills played, told in words, as JSON, and as the XML that build machines read of tests."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from xml.etree.ElementTree import Element, ElementTree, SubElement, indent

from veergust.cli import shapes
from veergust.cli.given import load
from veergust.cli.saying import say, say_json
from veergust.core.files import whole_file
from veergust.core.play import DrillResult, run_drill
from veergust.core.study import shared_out
from veergust.core.trouble import Unknown

UNSAFE = {c: "" for c in range(0x20) if c not in (0x09, 0x0A, 0x0D)} | {0xFFFE: "", 0xFFFF: ""}
"""Characters that XML 1.0 cannot hold."""


def drill_project(project: Path, names: Sequence[str], as_json: bool, report: Path | None) -> bool:
    """Run drills, all or those named, and tell how they went; whether all passed.

    Raises:
        Unknown: there is no drill of a name.
        Trouble: the ``report`` cannot be written.
    """
    value, build = load(project, whole=True)
    known = [d.name for d in value.drills]
    for name in names:
        if name not in known:
            raise Unknown("drill", name, known, file=project.name)
    wanted = [d for d in value.drills if not names or d.name in names]
    results = list(shared_out(build, run_drill, wanted, 4))
    if report is not None:
        with whole_file(report) as out:
            ElementTree(as_tests(value.name, results, value.settings.rate)).write(out, "utf-8", xml_declaration=True)
    if as_json:
        say_json({"drills": [shapes.drill(r) for r in results]})
    else:
        for r in results:
            say(f"{'passed' if r.passed else 'FAILED'}  {r.name}")
            for words in r.failed:
                say(f"        not so: {words}")
    return all(r.passed for r in results)


def as_tests(name: str, results: Sequence[DrillResult], rate: int) -> Element:
    """The results as a suite of test cases in JUnit's XML; the time of each is that of its take (s)."""
    failures = sum(not r.passed for r in results)
    seconds = sum(r.ticks for r in results) / rate
    counts = {"tests": str(len(results)), "failures": str(failures), "errors": "0", "time": f"{seconds:.3f}"}
    top = Element("testsuites", counts)
    suite = SubElement(top, "testsuite", {"name": _clean(name), "skipped": "0", **counts})
    for result in results:
        said = {"name": _clean(result.name), "classname": _clean(name), "time": f"{result.ticks / rate:.3f}"}
        case = SubElement(suite, "testcase", said)
        if not result.passed:
            many = f"{len(result.failed)} of {len(result.expected)} did not come"
            failure = SubElement(case, "failure", {"message": many, "type": "expectation"})
            failure.text = "\n".join(_clean(f"not so: {words}") for words in result.failed)
    indent(top)
    return top


def _clean(words: str) -> str:
    """Words without what XML cannot hold, lone surrogates among it."""
    return words.translate(UNSAFE).encode("utf-8", "replace").decode("utf-8")
