"""Where a file lies: on this machine's own disk, or on a file server that may or may not keep locks."""

from __future__ import annotations

import re
from pathlib import Path

import msgspec

_TABLE = Path("/proc/self/mountinfo")  # proc(5)
_SERVERS = re.compile(r"nfs\d?|cifs|smb\d?|smbfs|9p|afs|ceph|lustre|beegfs|davfs|fuse\.(?!fuseblk|ntfs).+|ncpfs|coda")
# What lets two machines open a file at once, each sure of its lock: nfs(5), mount.cifs(8); and bridges that know no
# locks.
_UNLOCKED = {"nolock", "local_lock=all", "local_lock=posix", "nobrl"}
_BRIDGES = re.compile(r"davfs|fuse\.(sshfs|rclone|davfs2?|gvfsd-fuse|curlftpfs|s3fs|kio-fuse)")


class Mount(msgspec.Struct, frozen=True):
    """A mounted file system: what kind it is, and whether it is a server that keeps locks."""

    kind: str
    options: frozenset[str] = frozenset()

    @property
    def is_server(self) -> bool:
        return _SERVERS.fullmatch(self.kind) is not None

    @property
    def keeps_locks(self) -> bool:
        return not self.is_server or not (self.options & _UNLOCKED or _BRIDGES.fullmatch(self.kind))


def mount_of(path: Path, table: str | None = None) -> Mount:
    """The file system a path is on, by the system's table of mounts; unknown where there is none."""
    if table is None:
        try:
            table = _TABLE.read_text(encoding="utf-8", errors="surrogateescape")
        except OSError:
            return Mount("unknown")
    place, best, found = path.absolute(), -1, Mount("unknown")
    for line in table.splitlines():
        own, dash, rest = line.partition(" - ")
        fields, kind = own.split(" "), rest.split(" ")
        if not dash or len(fields) < 6 or not kind[0]:
            continue
        point = re.sub(r"\\([0-7]{3})", lambda m: chr(int(m[1], 8)), fields[4])
        if place.is_relative_to(point) and len(point) >= best:  # of two on one point the later lies on top
            options = {*fields[5].split(","), *(kind[2].split(",") if len(kind) > 2 else ())}
            best, found = len(point), Mount(kind[0], frozenset(options))
    return found
