"""What writers put into files of the clock and of chance, put right: dates are the package's, ids are made of what is
in the file. So the same job sent on the same day by the same program gives the same bytes.

PDF and SVG have neither. DXF: $TDCREATE and its like (Julian dates), $FINGERPRINTGUID, $VERSIONGUID and the program's
own marks (DXF Reference, HEADER). XLSX: the dates of its parts and of its core properties (ECMA-376). IFC: FILE_NAME's
time stamp (ISO 10303-21, 9.2.3).
"""

from __future__ import annotations

import hashlib
import io
import re
import uuid
import zipfile
from collections.abc import Callable
from datetime import date, datetime

_DATES = re.compile(rb"(\$TD(?:U?CREATE|U?UPDATE)\r?\n\s*40\r?\n)[0-9.]+")
_IDS = re.compile(rb"(\$(FINGERPRINT|VERSION)GUID\r?\n\s*2\r?\n)\{[0-9A-Fa-f-]+\}")
_MARKS = re.compile(rb"(\d+(?:\.\w+)* @ )\d{4}-\d\d-\d\dT[0-9:.+]+")
_IFC_STAMP = re.compile(rb"(FILE_NAME\('(?:[^']|'')*',')[^']*(')")
_CORE = re.compile(rb"(<dcterms:(?:created|modified)[^>]*>)[^<]*(</dcterms:)")
_MIDDAY = 12  # a package's day is said as its middle, wherever it is read


def stamped(ending: str, data: bytes, on: str) -> bytes:
    """A file's bytes with the day of its package (ISO date), by the file's ending."""
    stamp = _WAYS.get(ending.casefold())
    return data if stamp is None else stamp(data, date.fromisoformat(on))


def _dxf(data: bytes, on: date) -> bytes:
    julian = f"{on.toordinal() + 1721424.5 + _MIDDAY / 24:.6f}".encode()
    time = f"{on.isoformat()}T{_MIDDAY}:00:00+00:00".encode()
    data = _DATES.sub(lambda m: m[1] + julian, data)
    data = _MARKS.sub(lambda m: m[1] + time, data)
    data = _IDS.sub(lambda m: m[1] + b"{00000000-0000-0000-0000-000000000000}", data)
    own = hashlib.sha256(data).hexdigest()
    return _IDS.sub(lambda m: m[1] + _guid(own, m[2].decode()), data)


def _guid(of: str, what: str) -> bytes:
    return f"{{{str(uuid.uuid5(uuid.NAMESPACE_OID, f'uncus/dxf/{what}/{of}')).upper()}}}".encode()


def _ifc(data: bytes, on: date) -> bytes:
    head, rest = data[:4000], data[4000:]
    return _IFC_STAMP.sub(lambda m: m[1] + f"{on.isoformat()}T{_MIDDAY}:00:00".encode() + m[2], head, count=1) + rest


def _xlsx(data: bytes, on: date) -> bytes:
    time = f"{on.isoformat()}T{_MIDDAY}:00:00Z".encode()
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as source, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as target:
        for name in source.namelist():
            body = source.read(name)
            if name == "docProps/core.xml":
                body = _CORE.sub(lambda m: m[1] + time + m[2], body)
            target.writestr(entry(name, on), body, zipfile.ZIP_DEFLATED)
    return out.getvalue()


def entry(name: str, on: date) -> zipfile.ZipInfo:
    """An entry of a ZIP with a package's day: no clock, no user and no system in it."""
    made = zipfile.ZipInfo(name, datetime(on.year, on.month, on.day, _MIDDAY).timetuple()[:6])
    made.external_attr, made.create_system = 0o644 << 16, 3
    return made


_WAYS: dict[str, Callable[[bytes, date], bytes]] = {".dxf": _dxf, ".ifc": _ifc, ".xlsx": _xlsx}
