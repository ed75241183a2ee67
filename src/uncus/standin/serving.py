"""The noticeboard served as a shared place would be, on this machine alone (127.0.0.1).

    GET  /                                jobs and their versions, as a page
    GET  /<job>/<version>/<file>          a file of a version; the viewer, for ?receiver=NAME, with what changed for him
    GET  /<job>/changes?receiver=NAME     what changed for him, as JSON
    POST /publish                         a package as ZIP; the notice of its version, as JSON
    POST /<job>/<version>/taken?receiver=NAME

Only files that a package lists are served, as what they are; whatever is named, nothing of it runs. Requests that
change something carry a head that a page of somebody else's cannot send.
"""

from __future__ import annotations

import threading
import urllib.error
import urllib.request
from contextlib import suppress
from datetime import date
from html import escape
from http import HTTPStatus
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import PurePosixPath
from typing import Any
from urllib.parse import parse_qs, quote, unquote, urlsplit

import msgspec

from uncus.job.errors import JobError
from uncus.standin.noticeboard import PAGE, Notice, Noticeboard, with_changes
from uncus.standin.parcels import unpacked

HERE = "127.0.0.1"
_HEAD, _SAID = "X-Noticeboard", "yes"  # a request with it is never sent for a page of another place
_MOST = 2_000_000_000
_TYPES = {".pdf": "application/pdf", ".svg": "image/svg+xml", ".json": "application/json", ".csv": "text/plain",
    ".zip": "application/zip"}  # fmt: skip
_NOTHING = "default-src 'none'; style-src 'unsafe-inline'"
_VIEWER = f"sandbox allow-scripts; {_NOTHING}; script-src 'unsafe-inline'; img-src data: blob:"
_STYLE = (
    "body{font:16px sans-serif;margin:2em;color:#1D2930;background:#F5F2EA}"
    "td,th{padding:.2em 1em .2em 0;text-align:left}"
)


class _Refused(Exception):
    def __init__(self, status: HTTPStatus, words: str) -> None:
        super().__init__(words)
        self.status = status


class Server(ThreadingHTTPServer):
    """A noticeboard at a port of this machine (0: any that is free), for nobody else."""

    daemon_threads = True

    def __init__(self, board: Noticeboard, port: int = 0) -> None:
        super().__init__((HERE, port), _Handler)
        self.board = board

    @property
    def place(self) -> str:
        return f"http://{HERE}:{self.server_address[1]}"

    def start(self) -> threading.Thread:
        """Serve in a thread of its own until `shutdown`."""
        thread = threading.Thread(target=self.serve_forever, daemon=True)
        thread.start()
        return thread


class _Handler(BaseHTTPRequestHandler):
    server: Server
    server_version, sys_version = "Noticeboard", ""

    def log_message(self, *args: Any) -> None:
        """Nothing is said of each request."""

    def do_GET(self) -> None:
        self._answer(self._get)

    def do_POST(self) -> None:
        self._answer(self._post)

    def _answer(self, way: Any) -> None:
        try:
            port = self.server.server_address[1]
            if self.headers.get("Host") not in {f"{HERE}:{port}", f"localhost:{port}"}:
                raise _Refused(HTTPStatus.FORBIDDEN, "This noticeboard is for this machine alone.")
            kind, data, policy = way()
            status = HTTPStatus.OK
        except _Refused as refused:
            status, kind, data, policy = refused.status, "text/plain", f"{refused}\n".encode(), _NOTHING
        except JobError as error:
            status, kind, data, policy = HTTPStatus.NOT_FOUND, "text/plain", f"{error}\n".encode(), _NOTHING
        self.send_response(status)
        self.send_header("Content-Type", kind + ("; charset=utf-8" if kind.startswith("text/") else ""))
        self.send_header("Content-Length", str(len(data)))
        self.send_header("X-Content-Type-Options", "nosniff")
        self.send_header("Referrer-Policy", "no-referrer")
        self.send_header("Content-Security-Policy", policy)
        if kind == "application/octet-stream":
            self.send_header("Content-Disposition", "attachment")
        self.end_headers()
        with suppress(OSError):  # whoever asked has gone
            self.wfile.write(data)

    def _asked(self) -> tuple[list[str], str]:
        """The parts of the path, and the receiver."""
        whole = urlsplit(self.path)
        parts = [unquote(p) for p in whole.path.split("/") if p]
        if any(p in (".", "..") or "/" in p or "\\" in p or "\0" in p for p in parts):
            raise _Refused(HTTPStatus.BAD_REQUEST, "That is no place on a noticeboard.")
        return parts, parse_qs(whole.query).get("receiver", [""])[0]

    def _get(self) -> tuple[str, bytes, str]:
        parts, receiver = self._asked()
        board = self.server.board
        match parts:
            case []:
                return "text/html", _front(board).encode(), _NOTHING
            case [job, "changes"]:
                return "application/json", msgspec.json.encode(board.changes(job, receiver)), _NOTHING
            case [job, version, *inside] if inside and version.isdecimal():
                name = "/".join(inside)
                data = board.file(job, int(version), name)
                if name == PAGE:  # the one page that has scripts; it may ask nothing of this place
                    return "text/html", with_changes(data, board.changes(job, receiver, int(version))), _VIEWER
                kind = _TYPES.get(PurePosixPath(name).suffix.casefold(), "application/octet-stream")
                return kind, data, _NOTHING
        raise _Refused(HTTPStatus.NOT_FOUND, "There is nothing there.")

    def _post(self) -> tuple[str, bytes, str]:
        parts, receiver = self._asked()
        if self.headers.get(_HEAD) != _SAID:
            raise _Refused(HTTPStatus.FORBIDDEN, f"A request that changes something says {_HEAD}: {_SAID}.")
        board = self.server.board
        match parts:
            case ["publish"]:
                length = self.headers.get("Content-Length", "")
                if not length.isdecimal() or int(length) > _MOST:
                    raise _Refused(HTTPStatus.REQUEST_ENTITY_TOO_LARGE, "A package says its length, of 2 GB at most.")
                parcel = unpacked(self.rfile.read(int(length)), parse_name(self.headers.get("X-Package", "")))
                return "application/json", msgspec.json.encode(board.lay_out(parcel)), _NOTHING
            case [job, version, "taken"] if version.isdecimal() and receiver.strip():
                board.note_taken(job, receiver, int(version), date.today().isoformat())
                return "application/json", b"{}", _NOTHING
        raise _Refused(HTTPStatus.NOT_FOUND, "There is nothing there.")


def parse_name(said: str) -> str:
    """A package's name out of a head."""
    return unquote(said)[:200] or "package.zip"


def _front(board: Noticeboard) -> str:
    """What is on the board; every name is text."""
    rows = []
    for job in board.jobs():
        taken: dict[int, list[str]] = {}
        for one in board.taken(job):
            taken.setdefault(one.version, []).append(one.receiver)
        for notice in reversed(board.versions(job)):
            at = f"/{quote(job, safe='')}/{notice.version}"
            who = ", ".join(sorted(taken.get(notice.version, [])))
            rows.append(f"<tr><td>{escape(job)}<td>{notice.version}<td>"
                f'<a href="{escape(at)}/{PAGE}">{escape(notice.package)}</a>'
                f"<td>{escape(notice.kind)}<td>{escape(notice.on)}<td>{notice.pieces}<td>{escape(who)}")  # fmt: skip
    head = "<tr><th>Job<th>Version<th>Package<th>Kind<th>On<th>Pieces<th>Taken by"
    listed = f"<table>{head}{''.join(rows)}</table>" if rows else "<p>Nothing is laid out yet.</p>"
    return (f'<!doctype html><html lang="en"><meta charset="utf-8"><title>Noticeboard</title><style>{_STYLE}</style>'
        f"<h1>Noticeboard</h1>{listed}</html>")  # fmt: skip


def publish_to(place: str, data: bytes, name: str) -> Notice:
    """Lay out a package, packed as ZIP, on a noticeboard that is served on this machine. Raises JobError."""
    whole = urlsplit(place)
    if whole.scheme != "http" or whole.hostname not in (HERE, "localhost"):
        raise JobError(f"{place} is not a noticeboard of this machine; give a folder, or http://{HERE}:PORT.")
    request = urllib.request.Request(f"{place.rstrip('/')}/publish", data, {_HEAD: _SAID, "X-Package": quote(name),
        "Content-Type": "application/zip"}, method="POST")  # fmt: skip
    try:
        with urllib.request.build_opener(urllib.request.ProxyHandler({})).open(request, timeout=120) as answer:
            return msgspec.json.decode(answer.read(10_000_000), type=Notice)
    except urllib.error.HTTPError as error:
        raise JobError(error.read(2000).decode("utf-8", "replace").strip() or str(error)) from None
    except (OSError, msgspec.MsgspecError) as error:
        raise JobError(f"The noticeboard at {place} does not answer as one ({error}).") from None
