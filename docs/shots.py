"""The pictures in docs/screenshots, from the demo, by driving the real window: ``./run shots [NAME…] [--to DIR]``."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

OUT = Path(__file__).resolve().parent / "screenshots"
SCREEN = "2100x900x24"


def main(wanted: list[str]) -> int:
    """Start a screen of its own, then the pictures."""
    if "VEERGUST_SHOTS" in os.environ:
        return take(wanted)
    read, write = os.pipe()
    server = subprocess.Popen(["Xvfb", "-displayfd", str(write), "-screen", "0", SCREEN], pass_fds=[write],
                              stderr=subprocess.DEVNULL)  # fmt: skip
    os.close(write)
    display = os.read(read, 16).decode().strip()
    try:
        with tempfile.TemporaryDirectory() as home:
            places = {f"XDG_{k}_HOME": f"{home}/{k}" for k in ("STATE", "DATA", "CONFIG", "CACHE")}
            here = {**os.environ, **places, "DISPLAY": f":{display}", "VEERGUST_SHOTS": "1"}
            return subprocess.run([sys.executable, __file__, *wanted], env=here, check=False).returncode
    finally:
        server.terminate()
        server.wait()


def take(wanted: list[str]) -> int:
    """Drive the window and keep the pictures."""
    to = OUT
    if "--to" in wanted:
        at = wanted.index("--to")
        to, wanted = Path(wanted[at + 1]), [*wanted[:at], *wanted[at + 2 :]]
    import numpy as np
    from PySide6.QtCore import QEventLoop, QSettings, Qt, QTimer
    from PySide6.QtGui import QColor, QPainter, QPixmap
    from PySide6.QtTest import QTest
    from PySide6.QtWidgets import QApplication

    sys.path.insert(0, str(Path(__file__).resolve().parents[1]))
    from tools.made.captures import write_bvh
    from tools.made.takes import long_take

    from veergust.core.edit.reactions import set_reaction
    from veergust.core.edit.spans import SpanRef, set_edges
    from veergust.core.edit.stages import use_stage
    from veergust.core.export.writing import export
    from veergust.core.files.demo import PAPER, fresh_demo, shipped_demo
    from veergust.core.files.saving import save_project
    from veergust.core.model import Project
    from veergust.core.motion.prepared import clip_pose
    from veergust.core.play.state import Input
    from veergust.core.scene.camera import Camera
    from veergust.core.study.reactions import HitKind
    from veergust.core.study.trial import Trying
    from veergust.desk.app import make_application, make_window
    from veergust.desk.ground.cards.live import LivePage
    from veergust.desk.sheet.together import Together
    from veergust.report.page import as_page
    from veergust.report.rows import reports

    make_application(["veergust"])
    home = Path(os.environ["XDG_DATA_HOME"])
    demo = fresh_demo()
    window = make_window(QSettings(str(home / "s.ini"), QSettings.Format.IniFormat))
    window.may_leave = lambda: True  # type: ignore[method-assign]
    window.open_project(demo)
    window.show()
    QTest.qWait(200)

    def settle(wait: int = 40) -> None:
        for _ in range(4):
            QApplication.processEvents()
            loop = QEventLoop()
            QTimer.singleShot(wait, loop.quit)
            loop.exec()

    def play(presses: dict[int, Qt.Key], until: int) -> None:
        spar = window.spar
        spar.hold()
        spar.restart()
        for tick in range(until):
            if tick in presses:
                QTest.keyClick(spar, presses[tick])
                spar.hold()
            spar.session.tick()

    def sheet() -> None:
        while window.document.done:
            window.document.undo()
        window.show_bench("Sheet")
        window.document.move_to(11)

    def sheet_versions() -> None:
        sheet = window.sheet
        window.document.choose_action("Low sweep")
        sheet.show_page(4)
        sheet.page_stack.versions.keep("quick")
        for row, frames in ((2, 5), (8, 8)):
            window.document.move_to(row)
            sheet.page_stack.section.retime(frames)
        window.document.move_to(8)
        sheet.page_stack.versions.chosen = 2
        sheet.page_stack.versions.compare.setChecked(True)
        sheet.show_frame()

    def sheet_back() -> None:
        window.sheet.page_stack.versions.compare.setChecked(False)
        window.sheet.show_page(0)
        while window.document.done:
            window.document.undo()

    def spar() -> None:
        sheet_back()
        window.document.choose_action("Low sweep")
        window.show_bench("Spar")
        window.spar.show_replay(False)
        play({20: Qt.Key.Key_A, 26: Qt.Key.Key_A, 41: Qt.Key.Key_A}, 62)

    def spar_commands() -> None:
        """A command on keys, mouse and pad, with a pad plugged in."""
        window.show_bench("Spar")
        bench = window.spar
        bench.show_commands(True)
        bench.commands.choose("light")
        while bench.driver.pads.sdl is None:
            settle(20)
        bench.commands.which_pads.plug.click()
        bench.driver.pads.poll()

    def spar_drills() -> None:
        window.spar.commands.which_pads.plug.click()
        window.spar.show_drills(True)
        page = window.spar.drills
        page.run_all()
        while page.left:
            settle(20)
        page.list.setCurrentRow(10)
        assert page.drill is not None
        page.play(page.results[page.drill].cells[6][0])
        window.spar.session.look_at(36)

    def spar_connection() -> None:
        """A drill over a line that is late and loses, on the attacker's screen, and how far it carries."""
        window.spar.show_rehearsal(True)
        page = window.spar.rehearsal
        page.drill.setCurrentIndex(page.drill.findText("Sweep touches"))
        page.delay.show_value(120.0)
        page.measure()
        while page.work is not None:
            settle(50)
        page.rehearse()
        while page.work is not None:
            settle(20)
        page.list.setCurrentRow(1)
        page.beside.click()
        window.spar.session.look_at(19)

    def spar_live() -> None:
        """The game runs beside it and has had an edit."""
        out = home / "out"
        export(window.document.build, out, mesh=False)
        game = Path(__file__).resolve().parents[1] / "examples" / "game"
        runs = subprocess.Popen([sys.executable, str(game), str(out)], stdout=subprocess.PIPE, text=True)
        try:
            page = window.spar.live
            window.spar.show_live(True)
            window.move(780, 0)
            page.connect_button.click()
            while page.line is None or not page.line.standing.even:
                settle(20)
            page.start_button.click()
            settle(60)
            made = window.document.compiled
            assert made is not None
            longer = set_edges(window.document.base, made, SpanRef("Low sweep", 1, "strikes", 0), 1, 7)
            window.document.apply(longer)
            settle(250)
            page.start_button.click()
            settle(60)
            if not wanted or "spar-live" in wanted:
                # Both as they stand on the screen, the game at its side on the desk's own paper.
                seen = QPixmap(760 + 1280 + 24, 800)
                seen.fill(QColor("#cfc6b2"))
                painter = QPainter(seen)
                painter.drawPixmap(0, 190, window.screen().grabWindow(0, 0, 0, 760, 420))
                painter.drawPixmap(784, 0, window.grab())
                painter.end()
                seen.save(str(to / "spar-live.png"))
                print(to / "spar-live.png")
        finally:
            runs.terminate()
            page.leave()
            window.move(0, 0)
        window.document.undo()

    def spar_stage() -> None:
        """Another stage, with who stands on it."""
        window.document.apply(use_stage(window.document.base, "Rope gallery"))
        bench = window.spar
        bench.stand(True)
        bench.standing._choose("fighter Tarn")
        bench.stage.view.set_camera(Camera((0.0, 2.2, 0.0), -24.0, 16.0, 8.0))

    def drive(ticks: int, moves: dict[int, tuple[float, float]], **presses: int) -> None:
        live = window.ground.live
        live.restart()
        name = live.session.fighter
        for tick in range(ticks):
            if tick in moves:
                live.session.give(Input(name, axis="move", value=moves[tick]))
            for command, when in presses.items():
                if tick == when:
                    live.session.give(Input(name, command))
            live.session.tick()
        live.show_tick()

    def ground() -> None:
        sheet_back()
        window.show_bench("Ground")
        bench = window.ground
        bench.selection.choose("guard walk")
        drive(78, {10: (0.6, 0.5)}, guard=2)
        bench.open_page(LivePage)

    def layers() -> None:
        window.show_bench("Layers")
        bench = window.layers
        bench.selection.choose("Arms")
        bench.trying.try_out(Trying("walk", 1.2, (("Arms", "Lantern toss"),)))
        bench.trying.look_at(30)
        bench.stack.setFocus()
        settle(300)

    def first() -> None:
        """The first page, with two projects that were opened lately."""
        for dialog in window.sheet.findChildren(Together):
            dialog.close()
        window.open_project(demo)
        window.document.choose_action("Low sweep")
        harbour = home / "Harbour set.veergust"
        shutil.copytree(demo, harbour)
        window.open_project(harbour)
        window.document.choose_action("Duck roll")
        window.new_project()

    def strike() -> None:
        """A strike fitted and opened wide, and where it touches somebody."""
        window.open_project(demo)
        window.show_bench("Sheet")
        window.document.choose_action("Low sweep")
        window.document.move_to(11)
        window.sheet.sheet.setFocus()
        QTest.keyClick(window.sheet.sheet, Qt.Key.Key_B)
        QTest.keyClick(window.sheet.sheet, Qt.Key.Key_W)
        window.sheet.show_page(6)
        settle()
        view = window.sheet.page_stack.touches.view
        QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=view.inks()[0].point(-0.2, 1.6).toPoint())

    def reactions() -> None:
        """Who answers, from eight sides."""
        QTest.keyClick(window.sheet.sheet, Qt.Key.Key_W)
        window.sheet.page_stack.touches.view.choose(None)
        for side, action in (("front left", "Reel left"), ("front", "Fall"), ("back right", "Flinch")):
            hit = HitKind(side, "heavy", "standing")
            window.document.apply(set_reaction(window.document.project, hit, action))
        window.sheet.show_page(7)
        window.sheet.page_stack.reactions.dial.choose("front left", "heavy")

    def bring_in(name: str) -> None:
        window.arrivals.bring_in([Path(__file__).resolve().parents[1] / "demo" / "to_import" / name])
        while window.arrivals.work is not None:
            settle(20)

    def clips() -> None:
        window.show_bench("Clips")
        window.document.choose_clip("staff_sweep")
        window.clips.playhead.move_to(26)
        settle(400)

    def clips_mapping() -> None:
        bring_in("harbour_guard.bvh")
        mapping = window.clips.mapping
        assert mapping.figure is not None
        mapping.choose_figure(mapping.figure.index["forearm_left"])

    def clips_prepare() -> None:
        window.clips.mapping.accept()
        while window.arrivals.work is not None:
            settle(20)
        window.clips.stage.view.set_camera(Camera((0.4, 0.84, 0.0), -12.0, 10.0, 5.0))
        window.clips.show_card(0)
        window.clips.playhead.move_to(32)
        settle(200)
        window.notice.hide()

    def clips_pose() -> None:
        bench, assets = window.clips, window.document.build.assets
        window.document.choose_clip("overhead")
        bench.show_card(7)
        bench.playhead.move_to(12)
        bench.pose.make_rough()
        for frame, source in ((9, 22), (14, 30)):
            clip = window.document.build.clip("overhead")
            assert clip is not None
            bench.playhead.move_to(frame)
            bench.pose.settle(clip_pose(assets, clip, np.array([source / 60])), "pose")
        bench.playhead.move_to(9)
        joint = assets.skeleton.index["spine"]
        bench.pose_tool.joint = joint
        bench.pose.select(joint)
        bench.film.setFocus()
        settle(200)

    def clips_take() -> None:
        """A long take of another's rig, its moves found, the film near one of them."""
        folder = Path(tempfile.mkdtemp())
        window.arrivals.bring_in([write_bvh(folder, long_take(seconds=180.0)[0], "night_watch.bvh")])
        while window.arrivals.work is not None:
            settle(20)
        window.clips.mapping.accept()
        while window.arrivals.work is not None:
            settle(20)
        bench = window.clips
        window.document.choose_clip("night_watch")
        bench.show_card(1)
        bench.take.look_for_moves()
        bench.take.take()
        bench.take.list.setCurrentRow(4)
        bench.playhead.timeline.zoom(3.0, bench.playhead.frame)
        settle(1500)
        window.notice.hide()

    def drawn_cells() -> None:
        """A bare sheet on its way in."""
        sheet = home / "thrust.png"
        sheet.write_bytes((shipped_demo(PAPER) / "clips" / "staff_thrust.png").read_bytes())
        folder = home / "theatre.veergust"
        save_project(Project(name="theatre"), folder)
        window.open_project(folder)
        window.arrivals.bring_in([sheet])
        while window.arrivals.work is not None:
            settle(20)
        page = window.clips.cells_page
        page.strikes.click()
        page.choose(4)

    def drawn_sheet() -> None:
        """Drawings on the sheet, and their boxes on the stage."""
        window.arrivals.give_up()
        window.open_project(fresh_demo(PAPER))
        window.show_bench("Sheet")
        window.document.choose_action("Thrust")
        window.document.move_to(15)
        window.sheet.drawing.choose("hurtbox")
        window.sheet.stage.view.set_camera(Camera((0.7, 0.84, 0.0), 0.0, 6.0, 4.4))

    def report() -> None:
        """The page of a report as a browser shows it, where there is one."""
        browser, page = shutil.which("chromium"), home / "report.html"
        if browser is None:
            print("Chromium is not installed: no picture of a report", file=sys.stderr)
            return
        build = window.document.build
        page.write_text(as_page(build, reports(build, ["Low sweep", "Thrust"])), encoding="utf-8")
        subprocess.run(
            [browser, "--headless", "--no-sandbox", "--disable-gpu", "--no-first-run", f"--user-data-dir={home / 'b'}",
             "--disable-background-networking", "--window-size=1280,1000", f"--screenshot={to / 'report.png'}",
             page.as_uri()],
            check=True, capture_output=True,
        )  # fmt: skip
        print(to / "report.png")

    pictures: dict[str, Callable[[], None]] = {
        "clips": clips,
        "clips-mapping": clips_mapping,
        "clips-prepare": clips_prepare,
        "clips-pose": clips_pose,
        "clips-take": clips_take,
        "sheet": sheet,
        "sheet-versions": sheet_versions,
        "spar": spar,
        "spar-commands": spar_commands,
        "spar-drills": spar_drills,
        "spar-connection": spar_connection,
        "spar-live": spar_live,
        "spar-stage": spar_stage,
        "ground": ground,
        "layers": layers,
        "strike": strike,
        "reactions": reactions,
        "report": report,
        "first": first,
        "drawn-cells": drawn_cells,
        "drawn-sheet": drawn_sheet,
    }
    steps = ("clips-prepare", "spar-stage")
    """Gone through on the way to the next, and not kept."""
    unknown = [name for name in wanted if name not in pictures]
    if unknown:
        print(f"no picture is called {', '.join(unknown)}; there are {', '.join(pictures)}", file=sys.stderr)
        return 2
    to.mkdir(parents=True, exist_ok=True)
    window.activateWindow()
    for name, make in pictures.items():
        if name in ("report", "spar-live", "spar-connection") and wanted and name not in wanted:
            continue
        make()
        settle()
        if name not in ("report", "spar-live", *steps) and (not wanted or name in wanted):
            window.grab().save(str(to / f"{name}.png"))
            print(to / f"{name}.png")
    window.close()
    return 0


if __name__ == "__main__":
    code = main(sys.argv[1:])
    sys.stdout.flush()
    os._exit(code)
