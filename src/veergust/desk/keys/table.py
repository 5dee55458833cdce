"""Everything that can be done by a key, in one table: menus, tooltips, help page and README are made from it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Where = Literal[
    "everywhere",
    "first",
    "field",
    "list",
    "together",
    "actions",
    "sheet",
    "now",
    "floor",
    "dial",
    "clips",
    "pose",
    "mapping",
    "cells",
    "ground",
    "slider",
    "stage",
    "take",
    "drive",
    "layers",
    "mask",
    "spar",
]
PLACES: dict[Where, str] = {
    "everywhere": "everywhere",
    "first": "on the first page",
    "field": "in a field",
    "list": "on a list to add from",
    "together": "while actions are put together",
    "actions": "on the list of actions",
    "sheet": "on the sheet",
    "now": "on the Now card",
    "floor": "on the map of touches",
    "dial": "on the dial of reactions",
    "clips": "on Clips",
    "pose": "on the page *Pose*",
    "mapping": "while a mapping is asked for",
    "cells": "while a sheet is cut",
    "ground": "on Ground",
    "slider": "on a slider of Ground",
    "stage": "on a stage that Tab led to",
    "take": "on the take of Spar",
    "drive": "on the stage of Ground",
    "layers": "on Layers",
    "mask": "on a mask",
    "spar": "on Spar",
}
"""Where keys hold, as it is called on the help page."""


@dataclass(frozen=True)
class DeskCommand:
    """Something that is done by keys: its name in the code, its keys, where they hold, and what it does.

    ``keys`` are as Qt writes them; ``shown`` says them in another way where there are many.
    """

    name: str
    keys: tuple[str, ...]
    where: Where
    does: str
    shown: str = ""

    @property
    def words(self) -> str:
        """Its keys, as they are told."""
        return self.shown or ", ".join(self.keys)


TABLE = (
    DeskCommand("new_project", ("Ctrl+N",), "everywhere", "begin a new project"),
    DeskCommand("open_project", ("Ctrl+O",), "everywhere", "open a project"),
    DeskCommand("save", ("Ctrl+S",), "everywhere", "save"),
    DeskCommand("save_as", ("Ctrl+Shift+S",), "everywhere", "save under another name"),
    DeskCommand("import", ("Ctrl+I",), "everywhere", "bring motion files in"),
    DeskCommand("hand_over", ("Ctrl+E",), "everywhere", "hand the project over to the game"),
    DeskCommand("report", ("Ctrl+Shift+R",), "everywhere", "write a report of the actions"),
    DeskCommand("send_picture", ("Ctrl+Shift+P",), "everywhere", "send the frames before one as a moving picture"),
    DeskCommand("send_spans", ("Ctrl+Alt+P",), "everywhere", "send them with their spans under them"),
    DeskCommand("undo", ("Ctrl+Z",), "everywhere", "take the last step back"),
    DeskCommand("redo", ("Ctrl+Y", "Ctrl+Shift+Z"), "everywhere", "make it again"),
    DeskCommand("changed", ("Ctrl+Shift+E",), "everywhere", "see what was changed, and take single changes back"),
    DeskCommand("take_back_theirs", ("Ctrl+Alt+Z",), "everywhere", "take back what last came in from disk"),
    DeskCommand("show_clips", ("Ctrl+1",), "everywhere", "go to Clips"),
    DeskCommand("show_ground", ("Ctrl+2",), "everywhere", "go to the Ground"),
    DeskCommand("show_sheet", ("Ctrl+3",), "everywhere", "go to the Sheet"),
    DeskCommand("show_layers", ("Ctrl+4",), "everywhere", "go to the Layers"),
    DeskCommand("show_spar", ("Ctrl+6",), "everywhere", "go to Spar"),
    DeskCommand("new_action", ("Ctrl+Shift+N",), "everywhere", "make an action of a clip"),
    DeskCommand("new_like", ("Ctrl+Shift+L",), "everywhere", "make an action like the open one"),
    DeskCommand("fold_side", ("F9",), "everywhere", "fold the list at the left away, or bring it back"),
    DeskCommand("put_together", ("Ctrl+Shift+G",), "everywhere", "make a string of actions, or one of them by chance"),
    DeskCommand("find", ("Ctrl+K",), "everywhere", "find an action, a clip or a command by name, or do any of this"),
    DeskCommand("find_here", ("Ctrl+F",), "everywhere", "find in what is before you: clips, states, actions, layers"),
    DeskCommand("rename", ("F2",), "everywhere", "give the open action or clip another name"),
    DeskCommand("findings", ("F8",), "everywhere", "list what the checks found"),
    DeskCommand("menu", ("F10",), "everywhere", "open the project's menu"),
    DeskCommand("help", ("F1",), "everywhere", "show these keys"),
    DeskCommand("recipes", ("Shift+F1",), "everywhere", "show how the usual things are done"),
    DeskCommand("theme", ("Ctrl+Shift+T",), "everywhere", "turn from day to night and back"),
    DeskCommand("full_screen", ("F11",), "everywhere", "have the whole screen, or no longer"),
    DeskCommand("quit", ("Ctrl+Q", "Ctrl+W"), "everywhere", "close the window"),
    DeskCommand("demo", ("Ctrl+Shift+D",), "everywhere", "look at the demo, in a copy of your own"),
    DeskCommand("paper", ("Ctrl+Alt+D",), "everywhere", "look at the paper theatre, whose figures are drawn"),
    DeskCommand("demo_here", ("D",), "first", "look at the demo"),
    DeskCommand("other_card", ("Up", "Down"), "first", "go from one to the next; Return opens it"),
    DeskCommand("give_up_field", ("Esc",), "field", "have back what was there"),
    DeskCommand("open_list", ("Up", "Down", "Space"), "list", "open it"),
    DeskCommand("take_in", ("Space",), "together", "take an action in, or out"),
    DeskCommand("make_it", ("Return",), "together", "make what is shown"),
    DeskCommand(
        "other_action",
        ("Up", "Down", "PgUp", "PgDown", "Home", "End"),
        "actions",
        "open another; typing a name, that one",
    ),
    DeskCommand("fold_actions", ("Left", "Right"), "actions", "fold the group to its name, unfold it"),
    DeskCommand("place_action", ("Alt+Up", "Alt+Down"), "actions", "put it elsewhere, or into another group"),
    DeskCommand("remove_action", ("Del",), "actions", "remove it; what leads to it goes along, or elsewhere"),
    DeskCommand("frame", ("Up", "Down"), "sheet", "move the playhead"),
    DeskCommand("frames", ("Ctrl+Up", "Ctrl+Down", "PgUp", "PgDown"), "sheet", "move it ten frames"),
    DeskCommand("ends", ("Home", "End"), "sheet", "go to the first frame, the last"),
    DeskCommand("across", ("Left", "Right"), "sheet", "go across the columns, and take what lies under the playhead"),
    DeskCommand("next_span", ("Tab",), "sheet", "go from span to span"),
    DeskCommand("stretch", ("Shift+Up", "Shift+Down"), "sheet", "stretch the edge in hand"),
    DeskCommand("stretch_start", ("Ctrl+Shift+Up", "Ctrl+Shift+Down"), "sheet", "stretch the opening edge"),
    DeskCommand("move", ("Alt+Up", "Alt+Down"), "sheet", "move the span"),
    DeskCommand("edge", ("E",), "sheet", "choose the edge; a number and Enter then set its frame"),
    DeskCommand("add", ("N",), "sheet", "put a span or an event here"),
    DeskCommand("add_whole", ("Shift+N",), "sheet", "put a span over the whole section"),
    DeskCommand("add_for_all", ("Alt+N",), "sheet", "put an exit, shield, hold or drive for the whole action"),
    DeskCommand("add_gate", ("G",), "sheet", "put a gate here"),
    DeskCommand("remove", ("Del",), "sheet", "take the span away"),
    DeskCommand("pin", ("P",), "sheet", "pin the edge in hand to the frame, or to the pose"),
    DeskCommand("fields", ("Return",), "sheet", "go to the fields of the selected span (Ctrl+click selects several)"),
    DeskCommand("split_cut", ("X",), "sheet", "split the cut"),
    DeskCommand("split_section", ("Shift+X",), "sheet", "split the section"),
    DeskCommand("retime", ("R",), "sheet", "play the cut in so many frames: a number and Enter follow"),
    DeskCommand("mirror", ("M",), "sheet", "mirror the cut"),
    DeskCommand("add_section", ("Ins",), "sheet", "put in a new section from a clip"),
    DeskCommand("select_all", ("Ctrl+A",), "sheet", "select every span of the section"),
    DeskCommand("copy", ("Ctrl+C",), "sheet", "copy spans"),
    DeskCommand("paste", ("Ctrl+V",), "sheet", "paste them by the pose"),
    DeskCommand("paste_frame", ("Ctrl+Shift+V",), "sheet", "paste them by the frame"),
    DeskCommand("accept", ("A",), "sheet", "take the nearest proposal"),
    DeskCommand("accept_breaks", ("Shift+A",), "sheet", "take the breaks that are proposed"),
    DeskCommand("fit", ("B",), "sheet", "fit the strike's hitboxes to what it sweeps"),
    DeskCommand("flip", ("F",), "sheet", "flip to the other version"),
    DeskCommand("open_wide", ("W",), "sheet", "open the strikes wide: what they cover, what is too much"),
    DeskCommand("fold", ("Z",), "sheet", "fold the section to one line"),
    DeskCommand("fold_others", ("Shift+Z",), "sheet", "fold all the others"),
    DeskCommand("escape", ("Esc",), "sheet", "give up what was begun, or select nothing"),
    DeskCommand("play", ("Space", "K", "L"), "sheet", "play or stop, stop, play"),
    DeskCommand("step", ("J", ",", "."), "sheet", "a frame back, on", "J , and ."),
    DeskCommand("let_go", ("U",), "sheet", "let go of the loop that plays"),
    DeskCommand("stand_elsewhere", ("Left", "Right", "Up", "Down"), "floor", "stand the target elsewhere"),
    DeskCommand("leave_floor", ("Esc",), "floor", "take the target away"),
    DeskCommand("around_dial", ("Left", "Right"), "dial", "go round the sides"),
    DeskCommand("across_dial", ("Up", "Down"), "dial", "go to a stronger hit, a weaker one"),
    DeskCommand("open_reaction", ("Return",), "dial", "open the action that answers"),
    DeskCommand("clear_reaction", ("Del",), "dial", "take its own row away"),
    DeskCommand("other_line", ("Up", "Down"), "now", "choose what another line is about"),
    DeskCommand("clip_step", ("J", ",", ".", "Left", "Right"), "clips", "a frame back, on", "J , . Left Right"),
    DeskCommand("clip_steps", ("Shift+Left", "Shift+Right"), "clips", "ten frames back, on"),
    DeskCommand("clip_ends", ("Home", "End"), "clips", "go to the first frame that is used, the last"),
    DeskCommand("clip_play", ("Space", "K", "L"), "clips", "play the used part or stop, stop, play"),
    DeskCommand("clip_zoom", ("+", "-"), "clips", "see the film nearer, farther (the wheel does it, too)"),
    DeskCommand("clip_fit", ("F", "Shift+F"), "clips", "see the chosen or the used part, see all of the film"),
    DeskCommand("clip_part", ("N",), "clips", "make a clip of the part that is chosen (Shift and drag on the film)"),
    DeskCommand("clip_choose", ("[", "]"), "clips", "choose the part from this frame on, up to it"),
    DeskCommand("clip_mark", ("M",), "clips", "put a mark here, or take it away"),
    DeskCommand("to_mark", ("Alt+Left", "Alt+Right"), "clips", "go from mark to mark"),
    DeskCommand("clip_edges", ("I", "O"), "clips", "in, out on this frame"),
    DeskCommand("other_clip", ("Up", "Down", "PgUp", "PgDown"), "clips", "open another clip, in the library"),
    DeskCommand("remove_clip", ("Del",), "clips", "remove the clip in the library, or the chosen foot"),
    DeskCommand("key_pose", ("Return",), "pose", "key the pose on this frame"),
    DeskCommand("remove_key", ("Del",), "pose", "take the key away"),
    DeskCommand("copy_pose", ("Ctrl+C", "Ctrl+V"), "pose", "copy, paste"),
    DeskCommand("next_key", ("Ctrl+Left", "Ctrl+Right"), "pose", "go from key to key"),
    DeskCommand("other_pair", ("Left", "Right", "Up", "Down"), "mapping", "go from joint to joint"),
    DeskCommand("unpair", ("Del",), "mapping", "have the chosen joint follow none"),
    DeskCommand("use_mapping", ("Ctrl+Return",), "mapping", "use the mapping"),
    DeskCommand("leave_mapping", ("Esc",), "mapping", "leave without the file"),
    DeskCommand("other_drawing", ("Left", "Right"), "cells", "go from cell to cell"),
    DeskCommand("move_cell", ("Shift+Left", "Shift+Right"), "cells", "move the chosen cell in the order"),
    DeskCommand("drop_cell", ("Del",), "cells", "leave the chosen cell out, or take it in again"),
    DeskCommand("use_cells", ("Ctrl+Return",), "cells", "take the drawings in"),
    DeskCommand("leave_cells", ("Esc",), "cells", "leave without the drawings"),
    DeskCommand("other_tag", ("Left", "Right", "Up", "Down"), "ground", "go from tag to tag, or from cell to cell"),
    DeskCommand("new_state", ("N",), "ground", "make a state; in the grid, a transition"),
    DeskCommand("new_group", ("Shift+N",), "ground", "put what is chosen into a new group"),
    DeskCommand("remove_ground", ("Del",), "ground", "take the chosen state, group or transition away"),
    DeskCommand("ground_fields", ("Return",), "ground", "go to the fields of what is chosen"),
    DeskCommand("ask_sooner", ("Alt+Up",), "ground", "have the transition asked sooner"),
    DeskCommand("ask_later", ("Alt+Down",), "ground", "have it asked later"),
    DeskCommand("fold_group", ("Z",), "ground", "fold the group to its name, or unfold it"),
    DeskCommand("drive", ("Space",), "ground", "let time run and drive, or hold it"),
    DeskCommand("turn_stage", ("Left", "Right", "Up", "Down"), "stage", "turn it"),
    DeskCommand("move_stage", ("Shift+Left", "Shift+Right", "Shift+Up", "Shift+Down"), "stage", "move it"),
    DeskCommand("near_stage", ("+", "-"), "stage", "nearer, farther"),
    DeskCommand("side_stage", ("1", "2", "3"), "stage", "look from the side, the front, the top"),
    DeskCommand("scrub_take", ("Left", "Right"), "take", "look at the tick before, after"),
    DeskCommand("scrub_far", ("PgUp", "PgDown"), "take", "a second back, on"),
    DeskCommand("take_ends", ("Home", "End"), "take", "go to its first tick, its last"),
    DeskCommand("slide", ("Left", "Right"), "slider", "less, more"),
    DeskCommand("slide_free", ("Del", "Backspace"), "slider", "let the body have its own again"),
    DeskCommand("drive_walk", ("Left", "Right", "Up", "Down"), "drive", "walk; with Shift run", "the arrows"),
    DeskCommand("drive_hold", ("Space",), "drive", "hold time or let it run"),
    DeskCommand("drive_step", ("J", ",", "."), "drive", "a frame back, on", "J , and ."),
    DeskCommand("drive_again", ("R",), "drive", "begin again where the fighter stands"),
    DeskCommand("other_layer", ("Up", "Down"), "layers", "choose another layer"),
    DeskCommand("other_cell", ("Left", "Right"), "layers", "go across what it does in each state"),
    DeskCommand("next_rule", ("Return", "Shift+Return"), "layers", "the next rule there, the one before; the fields"),
    DeskCommand("unfold_states", ("Z",), "layers", "open a group to its states, or fold it"),
    DeskCommand("new_layer", ("N",), "layers", "make a layer over the one that is chosen"),
    DeskCommand("double_layer", ("D",), "layers", "make one like it"),
    DeskCommand("remove_layer", ("Del",), "layers", "remove it; in a cell, do as around it"),
    DeskCommand("layer_up", ("Alt+Up",), "layers", "put it over the next"),
    DeskCommand("layer_down", ("Alt+Down",), "layers", "put it under the next"),
    DeskCommand("new_mask", ("Shift+N",), "layers", "make a mask for it"),
    DeskCommand("try_play", ("Space", "K", "L"), "layers", "play the mix round and round, or hold it"),
    DeskCommand("try_back", ("J", ","), "layers", "a frame back"),
    DeskCommand("try_on", (".",), "layers", "a frame on"),
    DeskCommand("both_spaces", ("B",), "layers", "see it mixed joint by joint and in body space, side by side"),
    DeskCommand("other_joint", ("Left", "Right", "Up", "Down"), "mask", "go from joint to joint"),
    DeskCommand("paint_joint", ("Return",), "mask", "paint the joint; in the table, type its weight"),
    DeskCommand("clear_joint", ("Del",), "mask", "clear it"),
    DeskCommand("weigh_joint", ("+", "-"), "mask", "in the table, weigh it more, less"),
    DeskCommand("walk", ("Left", "Right", "Up", "Down"), "spar", "walk; with Shift run", "the arrows"),
    DeskCommand("hold_time", ("Space", "K", "L"), "spar", "hold time or let it run, hold, run"),
    DeskCommand("spar_step", ("J", ",", "."), "spar", "a frame back, on", "J , and ."),
    DeskCommand("restart", ("R",), "spar", "begin a new take"),
    DeskCommand("try_action", ("T",), "spar", "play the action that is open on the Sheet"),
)
_BY_NAME = {command.name: command for command in TABLE}


def keys_of(name: str) -> tuple[str, ...]:
    """The keys of a command."""
    return _BY_NAME[name].keys


def on_key(where: Where, keys: str) -> str:
    """The name of the command that keys stand for somewhere; nothing when for none."""
    return _ON_KEY.get((where, keys), "")


_ON_KEY = {(command.where, keys): command.name for command in TABLE for keys in command.keys}


def as_markdown() -> str:
    """The table for the README."""
    out = []
    for where, words in PLACES.items():
        out.append(f"| key {words} | does |\n|---|---|")
        out += [f"| {c.words} | {c.does} |" for c in TABLE if c.where == where]
        out.append("")
    return "\n".join(out)
