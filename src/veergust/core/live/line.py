"""A line to a game that runs: it connects, comes back when it was lost, sends edits and gives what the game tells.

All of it goes on in a thread of its own; whoever asks never waits. docs/live.md describes the protocol.
"""

from __future__ import annotations

import json
import queue
import threading
import time
from collections import deque
from dataclasses import dataclass, field
from importlib.metadata import version
from typing import Any, Literal

import msgspec
from websockets.exceptions import ConnectionClosed, InvalidHandshake
from websockets.sync.client import ClientConnection, connect

from veergust.core.live.handed import Handing, faulty, update_of, version_now
from veergust.core.play import CompiledProject
from veergust.core.study import Store

PROTOCOL = 1
LARGEST = 16 << 20
"""No message that comes is longer (bytes)."""
MOST_ANSWERED = 100
MOST_TOLD = 36_000
"""So many ticks that nobody has taken are kept; older ones are left out."""
TRIES = (0.2, 0.5, 1.0, 2.0)
"""After so many seconds it is tried again, the last again and again."""
ANSWERS = 5.0
"""A game that does not answer for so long (s) is lost."""
FINAL = (-32001, -32002, -32003)
"""Refusals of the first word: another key, another protocol, another editor."""
State = Literal["off", "looking", "connected", "refused"]
Json = dict[str, Any]


@dataclass
class Standing:
    """How it stands with the game, as it was last told: what runs there, which version, what was sent last and when it
    was taken (s after it was asked for), what was refused."""

    state: State = "off"
    says: str = "not connected"
    game: Json = field(default_factory=dict)
    sent: str = ""
    applied: str = ""
    took: float | None = None
    refused: str = ""
    even: bool = False
    """Whether the game has all that was sent."""
    left_out: int = 0


class LiveLine:
    """The line. ``begin`` it, ``send`` builds as they change, ask for things, and look at ``standing`` and ``told``."""

    def __init__(
        self,
        port: int,
        key: str,
        when: Literal["free", "pose"] = "free",
        host: str = "127.0.0.1",
        store: Store | None = None,
    ) -> None:
        self.uri, self.key, self.when = f"ws://{host}:{port}", key, when
        self.handing = Handing()
        self.standing = Standing()
        self.told: deque[Json] = deque(maxlen=MOST_TOLD)
        """Ticks of the game that nobody has taken yet, the oldest first."""
        self._asked: queue.Queue[tuple[str, Json] | None] = queue.Queue()
        self._build: CompiledProject | None = None
        self._sent: CompiledProject | None = None
        self._since = 0.0
        self._lock = threading.Lock()
        self._over = threading.Event()
        self._woken = threading.Event()
        self._thread: threading.Thread | None = None
        self._ids = 0
        self._count = 0
        self._parts = False
        self._there: dict[str, str] = {}
        self._has: dict[str, bytes] = {}
        """Documents that the game has, and takes parts of."""
        self._store = store if store is not None else Store()
        self._asked_at: dict[str, float] = {}
        self._found = 0.0
        self._methods: dict[int, str] = {}
        self.answered: deque[tuple[str, Json]] = deque(maxlen=MOST_ANSWERED)
        """What was asked for and is answered: method and result, until somebody takes it."""

    def begin(self) -> None:
        """Look for the game from now on."""
        if self._thread is None:
            self._set(state="looking", says="looks for a game")
            self._thread = threading.Thread(target=self._run, name="line to a game", daemon=True)
            self._thread.start()

    def end(self, wait: float = 2.0) -> None:
        """Leave the game alone."""
        self._over.set()
        self._woken.set()
        if self._thread is not None:
            self._thread.join(wait)
            self._thread = None
        self._set(state="off", says="not connected")

    def send(self, build: CompiledProject) -> None:
        """Have the game play this from now on; what is sent while an older one is on its way goes after it."""
        with self._lock:
            self._build, self._since = build, time.monotonic()
        self._woken.set()

    def ask(self, method: str, **params: Any) -> None:
        """Ask the game for something: stop, go, step, start, press, stick, start_over."""
        self._asked.put((method, params))
        self._woken.set()

    def take(self) -> list[Json]:
        """The ticks of the game that came since the last time."""
        out = []
        while self.told:
            out.append(self.told.popleft())
        return out

    def _set(self, **changes: Any) -> None:
        with self._lock:
            for name, value in changes.items():
                setattr(self.standing, name, value)

    # In its thread

    def _run(self) -> None:
        tries = 0
        while not self._over.is_set():
            try:
                with connect(self.uri, max_size=LARGEST, open_timeout=ANSWERS, close_timeout=0.5, compression=None,
                             ping_interval=None, proxy=None) as there:  # fmt: skip
                    if not self._greeted(there):
                        return
                    tries = 0
                    self._talk(there)
                    if not self._over.is_set():
                        self._set(state="looking", says="the game has gone; looks for it")
            except (OSError, ConnectionClosed, InvalidHandshake, TimeoutError, EOFError):
                if self.standing.state == "connected":
                    self._set(state="looking", says="the game has gone; looks for it")
            except (ValueError, KeyError, TypeError, RecursionError):
                self._set(state="looking", says="what answers there says nothing that a game would; looks on")
            self._set(even=False)
            self._over.wait(TRIES[min(tries, len(TRIES) - 1)])
            tries += 1

    def _greeted(self, there: ClientConnection) -> bool:
        program = f"veergust {version('veergust')}"
        mark = self._request(there, "hello", {"protocol": PROTOCOL, "key": self.key, "program": program})
        answer = self._answer(there, mark)
        if "error" in answer:
            code, says = answer["error"]["code"], answer["error"]["message"]
            self._set(state="refused" if code in FINAL else "looking", says=f"the game says: {says}")
            return code not in FINAL and self._over.is_set()
        game = answer["result"]
        self._found = time.monotonic()
        self._there = {str(path): str(mark) for path, mark in game.pop("files", {}).items()}
        self._has = {}
        self._parts = game.pop("parts", False) is True
        self._set(state="connected", says=f"connected: {game.get('project')} runs", game=game, refused="")
        self._request(there, "follow", {"on": True})
        return True

    def _talk(self, there: ClientConnection) -> None:
        """Send what is to be sent, and take what comes."""
        self._sent = None
        while not self._over.is_set():
            while not self._asked.empty():
                asked = self._asked.get_nowait()
                if asked is not None:
                    self._methods[self._request(there, *asked)] = asked[0]
            with self._lock:
                build, since = self._build, self._since
            if build is not None and build is not self._sent:
                self._update(there, build, since)
                self._sent = build
            try:
                self._hear(json.loads(there.recv(timeout=0.004)))
            except TimeoutError:
                continue

    def _update(self, there: ClientConnection, build: CompiledProject, since: float) -> None:
        bad = faulty(build, self._store)
        if bad:
            self._set(refused=f"not sent: {bad}")
            return
        files = self.handing.files(build)
        marks = self.handing.marks(files)
        changes = update_of(files, marks, self._there, self._has)
        if not changes:
            self._set(even=True, refused="")
            return
        self._count += 1
        called = version_now(build, self._count)
        self._asked_at[called] = since
        self._set(sent=called, even=False)
        params = {"project": build.project.name, "files": changes, "version": called, "when": self.when}
        answer = self._answer(there, self._request(there, "update", params))
        if "error" in answer:
            self._asked_at.pop(called, None)
            self._set(refused=str(answer["error"].get("message")), sent=self.standing.applied)
            return
        self._there = {path: marks[path] for path in files if path in self._there or path.endswith(".glb")}
        self._has = {path: files[path] for path in self._there if not path.endswith(".glb")} if self._parts else {}
        self._set(refused="")

    def _request(self, there: ClientConnection, method: str, params: Json) -> int:
        self._ids += 1
        request = {"jsonrpc": "2.0", "id": self._ids, "method": method, "params": params}
        there.send(msgspec.json.encode(request).decode())
        return self._ids

    def _answer(self, there: ClientConnection, mark: int) -> Json:
        """The answer to a request; what the game tells meanwhile is heard."""
        until = time.monotonic() + ANSWERS
        while True:
            left = until - time.monotonic()
            if left <= 0 or self._over.is_set():
                raise TimeoutError
            message = json.loads(there.recv(timeout=left))
            if isinstance(message, dict) and message.get("id") == mark and ("result" in message or "error" in message):
                return message
            self._hear(message)

    def _hear(self, message: Any) -> None:
        """What the game tells of itself. What is none of the protocol is passed over."""
        if not isinstance(message, dict):
            return
        params = message.get("params")
        if message.get("method") == "ticks" and isinstance(params, dict):
            rows = params.get("lines")
            self.told.extend(row for row in rows if isinstance(row, dict)) if isinstance(rows, list) else None
            missed = params.get("left_out", 0)
            self._set(left_out=self.standing.left_out + (missed if isinstance(missed, int) else 0))
        elif message.get("method") == "applied" and isinstance(params, dict):
            taken = str(params.get("version"))
            since = self._asked_at.pop(taken, None)
            # What it was sent when it was found was made before.
            took = time.monotonic() - since if since is not None and since > self._found else None
            self._set(applied=taken, took=took, even=taken == self.standing.sent)
        elif isinstance(message.get("error"), dict):
            self._set(refused=str(message["error"].get("message"))[:300])
        elif isinstance(result := message.get("result"), dict):
            mark = message.get("id")
            method = self._methods.pop(mark, "") if isinstance(mark, int) else ""
            if "stopped" in result:
                self._set(game=result)
            if method:
                self.answered.append((method, result))
