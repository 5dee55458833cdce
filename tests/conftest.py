"""The demo project, loaded once, and a place of its own for whatever the program writes for a person."""

from __future__ import annotations

import gc
import os
import shutil
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, Phase, settings
from msgspec.structs import replace
from tools.made import DEMO

from veergust.core.files.assets import load_assets
from veergust.core.files.folder import open_project
from veergust.core.kinds.finding import Finding
from veergust.core.model import Action, Clip, Project, Section
from veergust.core.motion.figure import Assets
from veergust.core.motion.track import Roots
from veergust.core.play.compiled.compiling import compile_section
from veergust.core.play.compiled.locomotion_clip import LocomotionClip, bake
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.compiled.section import CompiledSection, FindClip
from veergust.core.results import Results
from veergust.core.study.findings import findings
from veergust.core.study.store import Store

# The default walks through all there is every 700 objects or so, which is a fifth of the time of a test that plays.
gc.set_threshold(100_000, 20, 100)
# Speed is measured in benchmarks/, and examples are the same on every run.
settings.register_profile(
    "quay",
    max_examples=int(os.environ.get("VEERGUST_DRAWN", "25")),
    deadline=None,
    derandomize=True,
    suppress_health_check=[HealthCheck.function_scoped_fixture],
)
# Where only whether a test fails is asked, nobody reads the smallest case that makes it fail.
settings.register_profile("at once", settings.get_profile("quay"), phases=(Phase.explicit, Phase.generate))
settings.load_profile(os.environ.get("VEERGUST_EXAMPLES_FOR", "quay"))
KEPT = 300
"""So much of what was compiled is kept for other tests."""
OSSA, TARN = "Ossa Renn", "Tarn"
Found = Callable[[Project], list[Finding]]


@pytest.fixture(autouse=True)
def own_places(tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch) -> None:
    home = tmp_path_factory.mktemp("home")
    for name in ("XDG_STATE_HOME", "XDG_DATA_HOME", "XDG_CONFIG_HOME", "XDG_CACHE_HOME"):
        monkeypatch.setenv(name, str(home / name))
    os.environ.setdefault("QT_ACCESSIBILITY", "0")


@pytest.fixture(scope="session", autouse=True)
def compiled_once() -> Iterator[None]:
    """The same cuts of the same clips are sampled by hundreds of tests: what is asked with the same in everything that
    it is asked with has been worked out, whatever the program keeps or forgets."""
    sections, laps = Results[Any, CompiledSection](KEPT), Results[Any, LocomotionClip](KEPT)

    def compile_once(section: Section, action: Action, find: FindClip, assets: Assets, *rest: Any) -> CompiledSection:
        clips = tuple(find(cut.clip) for cut in section.cuts)
        key = (section, replace(action, sections=()), clips, id(assets), *rest)
        made = sections.of(key, lambda: compile_section(section, action, find, assets, *rest), assets)
        return made.with_spans(section)  # which is equal, and its very own strikes

    def bake_once(assets: Assets, clip: Clip | None, roots: Roots) -> LocomotionClip:
        return laps.of((id(assets), clip, roots), lambda: bake(assets, clip, roots), assets)

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("veergust.core.play.compiled.project.compile_section", compile_once)
        patch.setattr("veergust.core.play.compiled.project.bake", bake_once)
        yield


@pytest.fixture(scope="session")
def quay() -> Project:
    return open_project(DEMO)


@pytest.fixture(scope="session")
def assets(quay: Project) -> Assets:
    return load_assets(quay, DEMO)[0]


@pytest.fixture
def build(quay: Project, assets: Assets) -> CompiledProject:
    return CompiledProject(quay, assets)


@pytest.fixture(scope="session")
def found_in(quay: Project, assets: Assets) -> Found:
    """What is found in what an edit made of the demo, as a window finds it: what the edit left alone is not found anew.
    That it is what is found anew is held where findings are kept."""
    demo, shelf = CompiledProject(quay, assets), Store()

    def found(project: Project) -> list[Finding]:
        return findings(demo.renew(project), shelf)

    return found


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    target = tmp_path / "quay.veergust"
    shutil.copytree(DEMO, target)
    return target
