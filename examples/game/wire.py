"""The line to an editor: JSON-RPC 2.0 over WebSocket (RFC 6455), on the loopback address only. docs/live.md says what
is said."""

from __future__ import annotations

import asyncio
import base64
import binascii
import hmac
import json
import struct
from collections.abc import Callable, Collection
from typing import Any

from websockets.asyncio.server import Server, ServerConnection, serve
from websockets.exceptions import ConnectionClosed

from game.running import Running, played

Json = dict[str, Any]
PROTOCOL = 1
LARGEST = 64 << 20
"""No message is longer (bytes)."""
BEHIND = 240
"""So many messages wait for an editor that does not read; then the oldest are left out, and counted."""
WAITS = 5.0
"""For so many seconds it is waited for a first word, and for a sign of life."""
UNPLAYABLE = (ValueError, KeyError, TypeError, IndexError, AttributeError, struct.error, RecursionError)


class Refused(Exception):
    """Something is not done: a code of the protocol, and why, in words."""

    def __init__(self, code: int, says: str) -> None:
        super().__init__(says)
        self.code, self.says = code, says


PARSE, INVALID, NO_METHOD, BAD_PARAMS = -32700, -32600, -32601, -32602
WRONG_KEY, OTHER_PROTOCOL, TAKEN, OTHER_PROJECT, NOT_PLAYABLE, NOT_THERE = range(-32001, -32007, -1)


class Editor:
    """The editor that is connected, and what waits to be sent to it."""

    def __init__(self, line: ServerConnection) -> None:
        self.line = line
        self.queue: asyncio.Queue[str] = asyncio.Queue(BEHIND)
        self.left_out = 0
        self.follows = False

    def tell(self, method: str, **params: Any) -> None:
        """Send a notification when its turn comes; one that does not read loses the oldest."""
        if self.queue.full():
            self.queue.get_nowait()
            self.left_out += 1
        if self.left_out and method == "ticks":
            params["left_out"] = self.left_out
            self.left_out = 0
        self.queue.put_nowait(json.dumps({"jsonrpc": "2.0", "method": method, "params": params}))

    async def send_on(self) -> None:
        """Send what waits, one after the other."""
        while True:
            await self.line.send(await self.queue.get())


class Wire:
    """Lets one editor at a time talk to what runs."""

    def __init__(self, running: Running, key: str, name: str = "game") -> None:
        self.running, self.key, self.name = running, key, name
        self.editor: Editor | None = None
        self.server: Server | None = None
        self.methods: dict[str, Callable[[Json], Json]] = {
            "status": self._status, "stop": self._stop, "go": self._go, "step": self._step,
            "start": self._start, "press": self._press, "stick": self._stick, "follow": self._follow,
            "start_over": self._start_over, "given": self._given,
        }  # fmt: skip

    async def open(self, port: int) -> int:
        """Listen on the loopback address; gives the port, which is chosen where it is 0."""
        self.server = await serve(
            self._talk,
            "127.0.0.1",
            port,
            max_size=LARGEST,
            ping_interval=WAITS,
            ping_timeout=WAITS,
            open_timeout=WAITS,
            close_timeout=0.5,
            compression=None,
        )
        return int(next(iter(self.server.sockets)).getsockname()[1])

    async def close(self) -> None:
        """Listen no more."""
        if self.server is not None:
            self.server.close()
            await self.server.wait_closed()

    def tell(self, method: str, **params: Any) -> None:
        """Tell the editor something, if there is one."""
        if self.editor is not None:
            self.editor.tell(method, **params)

    # One that talks

    async def _talk(self, line: ServerConnection) -> None:
        editor = Editor(line)
        sending = asyncio.create_task(editor.send_on())
        try:
            if await self._greeted(editor):
                async for message in line:
                    answer = await self._answer(message)
                    if answer is not None:
                        await line.send(json.dumps(answer))
        except (ConnectionClosed, TimeoutError):
            pass
        finally:
            sending.cancel()
            if self.editor is editor:
                self.editor = None

    async def _greeted(self, editor: Editor) -> bool:
        """The first word: with the right key and protocol, from one editor at a time. Another is told why, and left."""
        async with asyncio.timeout(WAITS):
            message = await editor.line.recv()
        mark = None
        try:
            asked = _request(message)
            mark = asked.get("id")
            if asked["method"] != "hello":
                raise Refused(WRONG_KEY, "the first word is hello, with the key")
            result = self._hello(asked.get("params"), editor)
        except Refused as refused:
            await editor.line.send(json.dumps(_error(mark, refused)))
            await editor.line.close(1008, refused.says[:100])
            return False
        await editor.line.send(json.dumps({"jsonrpc": "2.0", "id": mark, "result": result}))
        return True

    def _hello(self, params: Any, editor: Editor) -> Json:
        said = _params(params)
        if not hmac.compare_digest(str(said.get("key", "")).encode(), self.key.encode()):
            raise Refused(WRONG_KEY, "that is not the key that this game has")
        if said.get("protocol") != PROTOCOL:
            raise Refused(OTHER_PROTOCOL, f"this game speaks version {PROTOCOL} of the protocol")
        if self.editor is not None:
            raise Refused(TAKEN, "another editor is at this game")
        self.editor = editor
        return {
            "protocol": PROTOCOL,
            "game": self.name,
            "parts": True,
            "files": self.running.digests(),
            **self._status({}),
        }

    async def _answer(self, message: str | bytes) -> Json | None:
        """What a message is answered with; nothing where it asks for no answer."""
        mark = None
        try:
            asked = _request(message)
            mark = asked.get("id")
            method = self.methods.get(asked["method"])
            if method is None and asked["method"] != "update":
                raise Refused(NO_METHOD, f"there is no method {asked['method']!r}"[:200])
            said = _params(asked.get("params"))
            result = method(said) if method is not None else await self._update(said)
        except Refused as refused:
            return _error(mark, refused)
        return {"jsonrpc": "2.0", "id": mark, "result": result} if "id" in asked else None

    # What it is asked for

    def _status(self, _: Json) -> Json:
        running = self.running
        return {
            "project": running.project,
            "version": running.version,
            "waiting": running.waiting.version if running.waiting is not None else None,
            "tick": running.bout.now,
            "rate": running.export.rate,
            "stopped": running.stopped,
            "seed": running.seed,
            "fighters": [f.name for f in running.bout.fighters],
            "actions": list(running.export.actions),
        }

    async def _update(self, said: Json) -> Json:
        files, version, when = said.get("files"), said.get("version"), said.get("when", "free")
        if not isinstance(files, dict) or not isinstance(version, str) or when not in ("free", "pose"):
            raise Refused(BAD_PARAMS, "an update has files by path, a version, and when: free or pose")
        if said.get("project") != self.running.project:
            says = f"{self.running.project!r} runs here, and this is {str(said.get('project'))[:80]!r}"
            raise Refused(OTHER_PROJECT, says)
        changes: dict[str, bytes | None] = {}
        for path, data in files.items():
            if not played(path):
                raise Refused(BAD_PARAMS, f"{path[:80]!r} is no file that is played here")
            changes[path] = _bytes(path, data, self.running.latest.get(path, b""))
        try:
            # Read beside the loop, which goes on meanwhile.
            made = await asyncio.to_thread(self.running.prepared, changes, version[:200], when)
        except UNPLAYABLE as error:
            says = f"that is no export that can be played: {type(error).__name__} {error}"
            raise Refused(NOT_PLAYABLE, says[:300]) from error
        self.running.waiting = made
        # Between two ticks, which this is, what can be taken is taken at once.
        if taken := self.running.take():
            self.tell("applied", version=taken, tick=self.running.bout.now)
        return {"version": version[:200], "changed": sorted(made.changed)}

    def _stop(self, _: Json) -> Json:
        self.running.stopped, self.running.steps = True, 0
        return self._status({})

    def _go(self, _: Json) -> Json:
        self.running.stopped = False
        return self._status({})

    def _step(self, said: Json) -> Json:
        ticks = said.get("ticks", 1)
        if not isinstance(ticks, int) or isinstance(ticks, bool) or not 1 <= ticks <= 3600:
            raise Refused(BAD_PARAMS, "ticks is a whole number from 1 to 3600")
        self.running.stopped = True
        self.running.steps = ticks
        return self._status({})

    def _fighter(self, said: Json) -> str:
        return _one_of([f.name for f in self.running.bout.fighters], said.get("fighter"), "fighter")

    def _start(self, said: Json) -> Json:
        actions = self.running.export.actions
        action, section = _one_of(actions, said.get("action"), "action"), said.get("from", "")
        if section != "":
            _one_of([s.name for s in actions[action].sections], section, f"section in {action!r}")
        row = {"tick": self.running.bout.now, "fighter": self._fighter(said), "action": action}
        self.running.given.append(row | ({"from": section} if section else {}))
        return {"tick": self.running.bout.now}

    def _press(self, said: Json) -> Json:
        command, down = _one_of(self.running.export.commands, said.get("command"), "command"), said.get("press", True)
        if not isinstance(down, bool):
            raise Refused(BAD_PARAMS, "press is true or false")
        row = {"tick": self.running.bout.now, "fighter": self._fighter(said), "command": command, "press": down}
        self.running.given.append(row)
        return {"tick": self.running.bout.now}

    def _stick(self, said: Json) -> Json:
        value = said.get("value")
        if not isinstance(value, list) or len(value) != 2 or not all(_plain(v) for v in value):
            raise Refused(BAD_PARAMS, "value is two numbers from -1 to 1")
        row = {"tick": self.running.bout.now, "fighter": self._fighter(said), "axis": "move", "value": value}
        self.running.given.append(row)
        return {"tick": self.running.bout.now}

    def _follow(self, said: Json) -> Json:
        assert self.editor is not None
        self.editor.follows = bool(said.get("on", True))
        return {"tick": self.running.bout.now}

    def _start_over(self, _: Json) -> Json:
        self.running.start_over()
        return self._status({})

    def _given(self, _: Json) -> Json:
        running = self.running
        lines = list(running.lines)
        first = lines[0]["tick"] if lines else running.bout.now
        inputs = [row for line in lines for row in line["inputs"]]
        return {"first": first, "ticks": running.bout.now, "seed": running.seed, "inputs": inputs}


def _one_of(there: Collection[str], name: Any, kind: str) -> str:
    """A name that must be one of those that there are."""
    if not isinstance(name, str) or name not in there:
        raise Refused(NOT_THERE, f"there is no {kind} {str(name)[:80]!r}")
    return name


def _plain(value: Any) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool) and -1.0 <= value <= 1.0


def _request(message: str | bytes) -> Json:
    """A request of JSON-RPC 2.0."""
    try:
        asked = json.loads(message)
    except (ValueError, RecursionError) as error:
        raise Refused(PARSE, "that is no JSON") from error
    if not isinstance(asked, dict) or asked.get("jsonrpc") != "2.0" or not isinstance(asked.get("method"), str):
        raise Refused(INVALID, "that is no request of JSON-RPC 2.0")
    if not isinstance(asked.get("id"), str | int | None) or isinstance(asked.get("id"), bool):
        raise Refused(INVALID, "an id is a word or a whole number")
    return asked


def _params(params: Any) -> Json:
    if params is None:
        return {}
    if not isinstance(params, dict):
        raise Refused(BAD_PARAMS, "params is an object")
    return params


def _bytes(path: str, data: Any, there: bytes) -> bytes | None:
    """The bytes of a file, or nothing where it goes; of one of which a part is sent, with all else as it is there."""
    if data is None:
        return None
    if isinstance(data, dict) and isinstance(data.get("text"), str):
        first, last = data.get("from", 0), data.get("to", len(there))
        if not all(isinstance(v, int) and not isinstance(v, bool) for v in (first, last)):
            raise Refused(BAD_PARAMS, f"{path[:80]!r} has a part without whole numbers from and to")
        if not 0 <= first <= last <= len(there):
            raise Refused(BAD_PARAMS, f"{path[:80]!r} has no bytes {first} to {last}: it is {len(there)} long")
        return there[:first] + str(data["text"]).encode() + there[last:]
    try:
        return base64.b64decode(data["base64"], validate=True)
    except (TypeError, KeyError, ValueError, binascii.Error) as error:
        raise Refused(BAD_PARAMS, f"{path[:80]!r} is neither text nor base64") from error


def _error(mark: Any, refused: Refused) -> Json:
    return {"jsonrpc": "2.0", "id": mark, "error": {"code": refused.code, "message": refused.says}}
