"""Every kernel asks its arrays before it looks into them: whatever does not fit is an error, and nothing is written.

Each entry is called with what fits, and then with each argument spoilt in each way, in a program of its own: one that
ends, or goes on in silence, is found out.
"""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

CALLS = '''
import faulthandler, itertools, json, sys
import numpy as np
from types import SimpleNamespace as Pose
from veergust.core.motion.kernels import joints, limbs, mixing
from veergust.core.play.body import collide, floors
from veergust.core.play.pose import eyes, feet

faulthandler.enable()
J = 5
whole = np.arange
parents = np.array([-1, 0, 1, 2, 3], np.intp)
def turns(*shape):
    out = np.zeros((*shape, 4)); out[..., 3] = 1.0; return out
def frames(*shape):
    return np.tile(np.eye(4), (*shape, 1, 1))
def places(*shape):
    return np.full((*shape, 3), 0.1)
def floor():
    return np.array([[-5.0, -5.0, 5.0, 5.0, 0.0, 0.0, 0.0]])
def rows(n=1):
    out = np.zeros((n, 24)); feet.fresh(out); return out
def pose(f=2):
    return Pose(rotation=turns(f, J), translation=places(f, J))
limb = np.array([[1, 2, 3, 4]], np.intp)
lengths = np.array([[0.1, 0.1]])
ENTRIES = {
    "forward": (joints.forward, lambda: [parents, turns(2, J), places(2, J), frames(2, J)]),
    "reach": (limbs.reach, lambda: [parents, turns(J), frames(J), limb, lengths, places(1), turns(1), 0.99]),
    "over": (mixing.over, lambda: [parents, pose(), pose(), np.full((2, J), 0.5), 1.0, turns(2, J), turns(2, J), places(2, J), turns(2, J), True]),
    "over joints": (mixing.over, lambda: [parents, pose(), pose(), np.full((1, 1), 0.5), 1.0, None, turns(2, J), places(2, J), turns(2, J), False]),
    "added": (mixing.added, lambda: [parents, pose(), pose(), pose(1), np.full((2, J), 0.5), 1.0, turns(2, J), turns(2, J), places(2, J), turns(2, J), True]),
    "mean": (mixing.mean, lambda: [[(pose(3), 0.5, 0.4), (pose(2), 1.0, 0.6)], turns(J), places(J)]),
    "height under": (floors.height_under, lambda: [floor(), 0.0, 0.0, 0.0]),
    "height of": (floors.height_of, lambda: [floor(), 0, 0.0, 0.0]),
    "sweep": (collide.sweep, lambda: [np.zeros(3), np.array([0.1, -0.1, 0.0]), 0.3, floor(), np.array([[1.0, 1.0, 0.2, 0.0, 1.0]])]),
    "bearing": (eyes.bearing, lambda: [frames(J), 4, np.array([0.0, 0.0, 1.0]), 1.0, 1.0, 1.0, 0.0]),
    "turn": (eyes.turn, lambda: [parents, turns(J), frames(J), np.array([2, 3], np.intp), np.array([0.5, 0.5]), 20.0, 5.0, 1.0]),
    "lay": (feet.lay, lambda: [parents, turns(J), places(J), frames(J), limb, lengths, rows(), 1, 0.0, 0.02, 0.01, 1.0]),
    "step": (feet.step, lambda: [frames(J), limb, lengths, np.array([0.02]), floor(), rows(), rows(), [0.5], (0.0, 0.0, 0.0), 0.0, True, True, 60.0, (0.4, 0.4, 30.0), 0.0, 0.0]),
    "fresh": (feet.fresh, lambda: [rows()]),
}

def spoilt(value, name, at):
    """What a value must not be, with what was done to it."""
    if isinstance(value, np.ndarray):
        yield "none", None
        for axis in range(value.ndim):
            less = np.ascontiguousarray(np.take(value, range(value.shape[axis] - 1), axis))
            more = np.ascontiguousarray(np.concatenate([value, np.take(value, [-1], axis)], axis))
            yield f"one less along {axis}", less
            yield f"one more along {axis}", more
            yield f"nothing along {axis}", np.ascontiguousarray(np.take(value, [], axis))
        if value.dtype == np.intp:
            for index in (J, -1, 10**12, -(10**12)):
                if value is parents and index < 0:
                    continue
                for place in np.ndindex(value.shape):
                    bad = value.copy(); bad[place] = index
                    yield f"{index} at {place}", bad
            if value is parents:
                for j in range(J):
                    bad = value.copy(); bad[j] = j
                    yield f"joint {j} on itself", bad
    elif isinstance(value, Pose):
        for field in ("rotation", "translation"):
            for how, bad in spoilt(getattr(value, field), name, at):
                yield f"{field} {how}", Pose(**{**vars(value), field: bad})
    elif isinstance(value, tuple):
        yield "none", None
        yield "shorter", value[:-1]
        yield "nothing", ()
    elif isinstance(value, list):
        yield "none", None
        yield "nothing", []
        if value and isinstance(value[0], tuple):
            for n, (inner, when, weight) in enumerate(value):
                for how, bad in spoilt(inner, name, at):
                    yield f"{n} {how}", [*value[:n], (bad, when, weight), *value[n + 1:]]
                for when in (-1.0, 2.5, 1e30, float("nan")):
                    yield f"{n} at {when}", [*value[:n], (inner, when, weight), *value[n + 1:]]
    elif type(value) is int:
        for bad in (-1, J, 10**12):
            yield str(bad), bad

# What may be so all the same: floors, discs and rows may be any number, joints more than are asked about, and one frame
# counts for all where poses and weights are read.
ANY = {("height under", 0), ("sweep", 3), ("sweep", 4), ("step", 4), ("fresh", 0)}
def may_be(name, at, how):
    if how.endswith("along 0") and (name, at) in ANY:
        return True
    if how == "one more along 0" and (name, at) in {("height of", 0), ("bearing", 0), ("step", 0)}:
        return True
    if name in ("over", "over joints", "added"):
        read, weight, way = ((1, 2, 3), 4, 6) if name == "added" else ((1, 2), 3, 5)
        if at == 3 and name == "added":
            return how.endswith("one more along 0")  # one frame becomes two
        if at in read:
            return how.endswith("one less along 0")  # two become one
        if at == weight:
            return how == ("one more along 0" if name == "over joints" else "one less along 0")
        if at == way:
            return how in ("none", "one less along 0")
    return False

def outputs(args):
    out = []
    for a in args:
        if isinstance(a, np.ndarray):
            out.append(a.tobytes())
    return out

bad = []
count = 0
for name, (call, given) in ENTRIES.items():
    call(*given())
    for at in range(len(given())):
        for how, value in spoilt(given()[at], name, at):
            args = given(); args[at] = value
            before = outputs(args)
            print("#", name, at, how, file=sys.stderr, flush=True)
            count += 1
            try:
                call(*args)
            except (ValueError, TypeError, IndexError, OverflowError, AttributeError):
                if outputs(args) != before:
                    bad.append([name, at, how, "wrote before it failed"])
            else:
                if not may_be(name, at, how):
                    bad.append([name, at, how, "took it"])
print(json.dumps([count, bad]))
'''


def test_no_kernel_looks_beyond_the_end_of_an_array(tmp_path: Path) -> None:
    (tmp_path / "calls.py").write_text(CALLS)
    ran = subprocess.run([sys.executable, tmp_path / "calls.py"], capture_output=True, text=True, check=False)
    assert ran.returncode == 0, ran.stderr[-900:]
    count, bad = json.loads(ran.stdout)
    assert count > 400
    assert bad == []


def test_memory_that_cannot_be_had_is_an_error(tmp_path: Path) -> None:
    """With as good as no memory left a kernel says so, and the program goes on."""
    program = """
import resource
import numpy as np
from veergust.core.motion.kernels import limbs
many = 3_000_000
parents = np.arange(-1, many - 1, dtype=np.intp)
turns = np.zeros((many, 4)); turns[:, 3] = 1.0
joints = np.zeros((many, 4, 4))
limb, lengths = np.array([[1, 2, 3, 4]], np.intp), np.array([[0.1, 0.1]])
given = (parents, turns, joints, limb, lengths, np.ones((1, 3)), np.array([[0.0, 0.0, 0.0, 1.0]]), 0.99)
used = int(open("/proc/self/statm").read().split()[0]) * 4096
resource.setrlimit(resource.RLIMIT_AS, (used + (1 << 20), -1))
try:
    limbs.reach(*given)
except MemoryError as error:
    print("no room" in str(error))
"""
    ran = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, check=False)
    assert ran.returncode == 0, ran.stderr[-900:]
    assert ran.stdout.strip() == "True"
