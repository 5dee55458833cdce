"""The line, as docs/live.md says it, spoken by a client that shares nothing with ours: another package, a plain socket."""

from __future__ import annotations

import json
import socket
from pathlib import Path
from typing import Any

from wsproto import ConnectionType, WSConnection
from wsproto.events import AcceptConnection, CloseConnection, Ping, Request, TextMessage

from tests.live.playing import game

Json = dict[str, Any]


class Client:
    """Talks to the game."""

    def __init__(self, port: int) -> None:
        self.socket = socket.create_connection(("127.0.0.1", port), timeout=20)
        self.line = WSConnection(ConnectionType.CLIENT)
        self.came: list[Json] = []
        self.closed: int | None = None
        self.part = ""
        self.socket.sendall(self.line.send(Request(host=f"127.0.0.1:{port}", target="/")))
        self.open = False
        while not self.open:
            self.hear()

    def hear(self) -> None:
        self.line.receive_data(self.socket.recv(1 << 16) or None)
        for event in self.line.events():
            if isinstance(event, AcceptConnection):
                self.open = True
            elif isinstance(event, TextMessage):
                self.part += event.data
                if event.message_finished:
                    self.came.append(json.loads(self.part))
                    self.part = ""
            elif isinstance(event, Ping):
                self.socket.sendall(self.line.send(event.response()))
            elif isinstance(event, CloseConnection):
                self.closed = event.code

    def ask(self, mark: int, method: str, **params: Any) -> Json:
        message = {"jsonrpc": "2.0", "id": mark, "method": method, "params": params}
        self.socket.sendall(self.line.send(TextMessage(json.dumps(message))))
        return self.wait(lambda row: row.get("id") == mark)

    def wait(self, holds: Any) -> Json:
        while True:
            for row in self.came:
                if holds(row):
                    self.came.remove(row)
                    return row
            self.hear()


def test_a_client_of_another_package_reads_changes_and_follows(out: Path, key: Path) -> None:
    with game(out, key) as port:
        client = Client(port)
        hello = client.ask(1, "hello", protocol=1, key=key.read_text().strip(), program="a script")["result"]
        assert hello["stopped"] is False
        assert "actions.json" in hello["files"]
        stopped = client.ask(2, "stop")["result"]["tick"]
        actions = json.loads((out / "actions.json").read_text())
        sweep = next(a for a in actions["actions"] if a["name"] == "Low sweep")
        strike = next(s for section in sweep["sections"] for s in section["strikes"])
        strike["damage"] = 77.0
        sent = client.ask(
            3, "update", project=hello["project"], version="heavy", when="pose",
            files={"actions.json": {"text": json.dumps(actions)}},
        )  # fmt: skip
        assert sent["result"] == {"version": "heavy", "changed": ["Low sweep"]}
        taken = client.wait(lambda row: row.get("method") == "applied")
        assert taken["params"] == {"version": "heavy", "tick": stopped}
        client.ask(4, "follow", on=True)
        attacker = hello["fighters"][0]
        assert client.ask(5, "start", fighter=attacker, action="Low sweep")["result"]["tick"] == stopped
        assert client.ask(6, "step", ticks=60)["result"]["tick"] == stopped
        lines: list[Json] = []
        while len(lines) < 60:
            lines += client.wait(lambda row: row.get("method") == "ticks")["params"]["lines"]
        assert [row["tick"] for row in lines] == list(range(stopped, stopped + 60))
        assert [c["damage"] for row in lines for c in row["contacts"]] == [77.0]
        assert client.ask(7, "status")["result"]["version"] == "heavy"


def test_who_has_another_key_is_told_and_left(out: Path, key: Path) -> None:
    with game(out, key) as port:
        client = Client(port)
        assert client.ask(1, "hello", protocol=1, key="guess")["error"]["code"] == -32001
        while client.closed is None:
            client.hear()
        assert client.closed == 1008
