"""Reports: the numbers are the facts', nothing is asked of anybody, and no name can be more than a name."""

from __future__ import annotations

import csv
import io
import json
import re
import shutil
import subprocess
from html.parser import HTMLParser
from pathlib import Path

import pytest
from tools.made import DEMO
from tools.made.edits import replace

from veergust.cli.main import main
from veergust.core.edit.actions import rename_action
from veergust.core.kinds.facts import written
from veergust.core.model import Project
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.study.facts import facts
from veergust.report.page import as_page
from veergust.report.rows import as_csv, as_text, reports

BROWSER = shutil.which("chromium")
NAUGHTY = '<script>alert("1")</script>, "quoted"'


class Asked(HTMLParser):
    """What a page asks for, by tag and attribute, and what it says."""

    def __init__(self, page: str) -> None:
        super().__init__()
        self.links: list[str] = []
        self.scripts = 0
        self.pictures = 0
        self.text: list[str] = []
        self.feed(page)

    def handle_starttag(self, tag: str, attributes: list[tuple[str, str | None]]) -> None:
        self.scripts += tag == "script"
        self.pictures += tag == "img"
        self.links += [value or "" for name, value in attributes if name in ("src", "href", "srcset", "action", "data")]

    def handle_data(self, data: str) -> None:
        self.text.append(data)


@pytest.fixture(scope="module")
def few(quay: Project, assets: Assets) -> CompiledProject:
    """Two actions, one under a name that would be more than a name if it were let."""
    project = rename_action(quay, "Thrust", NAUGHTY).project
    return CompiledProject(project, assets)


@pytest.fixture(scope="module")
def page(few: CompiledProject) -> str:
    return as_page(few, reports(few, ["Low sweep", NAUGHTY]))


def test_a_table_of_values_has_the_facts_of_every_action_as_the_standard_writes_them(few: CompiledProject) -> None:
    text = as_csv(reports(few))
    assert text.count("\r\n") == text.count("\n")
    rows = list(csv.DictReader(io.StringIO(text, newline="")))
    assert [r["name"] for r in rows] == [a.name for a in few.project.actions]
    for row in rows:
        found = facts(few, row["name"])
        assert found is not None
        for name in ("startup", "active", "recovery", "total", "on_hit", "on_guard"):
            value = getattr(found, name)
            assert row[name] == ("" if value is None else str(value)), (row["name"], name)
        assert (
            row["reach_m"] == ""
            if found.reach is None
            else float(row["reach_m"]) == pytest.approx(found.reach, rel=1e-5)
        )


def test_plain_text_has_the_facts_under_their_labels(few: CompiledProject) -> None:
    lines = as_text(reports(few, ["Low sweep"])).splitlines()
    found = facts(few, "Low sweep")
    assert found is not None
    assert re.split(r" {2,}", lines[0]) == ["action", *written(found)]
    assert re.split(r" {2,}", lines[1]) == ["Low sweep", *written(found).values()]


def test_ways_out_and_spans_stand_on_the_frames_of_the_whole_action(few: CompiledProject) -> None:
    (row,) = reports(few, ["Low sweep"])
    sweep = few.project.actions[0]
    first = few.action("Low sweep").sections[0].ticks  # type: ignore[union-attr]
    (strike,) = sweep.sections[1].strikes
    (bar,) = [b for b in row.bars if b.title == "Sweep"]
    assert (bar.start, bar.end) == (first + strike.start, first + strike.end)
    light = [w for w in row.ways if w.by == "light" and w.to == NAUGHTY]
    assert [(w.start, w.end) for w in light[:1]] == [
        (first + e.start, first + e.end) for e in sweep.sections[1].exits if e.command == "light"
    ]
    assert [v[0] for v in row.versions] == [k.name for k in sweep.kept]


def test_a_page_asks_nobody_and_says_every_number(page: str, few: CompiledProject) -> None:
    asked = Asked(page)
    assert asked.links
    assert all(link.startswith(("data:", "#")) for link in asked.links)
    assert "default-src 'none'" in page
    assert not re.search(r"url\((?!data:)", page)
    assert (asked.scripts, asked.pictures >= 20) == (1, True)
    said = " ".join(asked.text)
    for name in ("Low sweep", NAUGHTY):
        found = facts(few, name)
        assert found is not None
        assert name in said
        assert all(text in said for text in written(found).values())


def shown(page: str, place: Path) -> tuple[set[str], subprocess.CompletedProcess[str]]:
    """Whom a page asks for anything while the browser shows it, and what the browser says."""
    place.mkdir()
    (place / "page.html").write_text(page)
    log = place / "net.json"
    done = subprocess.run(
        [str(BROWSER), "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
         "--disable-background-networking", "--disable-component-update", "--disable-sync", "--enable-logging=stderr",
         f"--user-data-dir={place / 'person'}", f"--log-net-log={log}", "--dump-dom",
         (place / "page.html").as_uri()],
        capture_output=True, text=True, timeout=120, check=False,
    )  # fmt: skip
    # Connections are told with the page for which they are made; those of the browser's own are for none.
    return set(re.findall(r'"group_id":"[^"]*?(https?://\S+) \\u003Cfile://', log.read_text())), done


@pytest.mark.skipif(BROWSER is None, reason="Chromium is not installed, so no browser was asked")
def test_a_browser_shows_it_sorts_it_and_goes_nowhere(page: str, tmp_path: Path) -> None:
    """The page in a real browser: its pictures load, a heading sorts by number both ways, no error, no request."""
    tried = page.replace(
        "</body>",
        """<script>
        addEventListener("load", function () {
          var heads = document.querySelectorAll("#moves th button"), out = [];
          function names() { return Array.from(document.querySelectorAll("#moves tbody a")).map(a => a.textContent); }
          heads[1].click(); out.push(names()); heads[1].click(); out.push(names());
          var bad = Array.from(document.images).filter(i => !i.complete || !i.naturalWidth).length;
          document.title = JSON.stringify({ sorted: out, bad: bad, images: document.images.length });
        });
        </script></body>""",
    )
    picture = '<img src="http://127.0.0.1:47123/a.png"><title>[]</title>'
    assert shown(f"<!DOCTYPE html>{picture}", tmp_path / "asks")[0] == {"http://127.0.0.1:47123"}
    asked, done = shown(tried, tmp_path / "page")
    title = re.search(r"<title>(.*?)</title>", done.stdout, re.DOTALL)
    assert title is not None, done.stderr[-2000:]
    told = json.loads(title[1].replace("&lt;", "<").replace("&gt;", ">").replace("&amp;", "&"))
    assert told["bad"] == 0
    assert told["images"] >= 20
    assert told["sorted"] == [["Low sweep", NAUGHTY], [NAUGHTY, "Low sweep"]]
    assert "CONSOLE" not in done.stderr
    assert asked == set()


def run(*words: object) -> int:
    with pytest.raises(SystemExit) as end:
        main(list(map(str, words)))
    return int(end.value.code or 0)


def test_the_command_writes_what_is_asked_for(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert (
        run("report", DEMO, "-o", tmp_path / "a.txt", "--csv", tmp_path / "a.csv", "--actions", "Thrust,Low sweep") == 0
    )
    assert (tmp_path / "a.txt").read_text().splitlines()[1].startswith("Low sweep")
    assert len((tmp_path / "a.csv").read_text().splitlines()) == 3
    assert run("report", DEMO) == 2
    assert run("report", DEMO, "-o", tmp_path / "b.html", "--actions", "Nothing") == 2
    assert "there is no action 'Nothing'" in capsys.readouterr().err
    assert not (tmp_path / "b.html").exists()


def test_a_project_of_no_actions_has_a_page_too(assets: Assets, quay: Project) -> None:
    build = CompiledProject(replace(quay, actions=(), reactions=(), pools=(), drills=(), takes=()), assets)
    assert "0 actions" in as_page(build, reports(build))
