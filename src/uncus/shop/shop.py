"""All steel of a job, as it is read: made where it waits, and known as far as it is."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from itertools import islice

import msgspec

from uncus.connect.alike import Home
from uncus.connect.kind import Body, Joint
from uncus.connect.sharing import on_one_line
from uncus.connect.strength.design import Design
from uncus.job.aside import Aside
from uncus.job.job import Job
from uncus.job.records import AnyRecord, Attachment, Connection, Point
from uncus.shop.clashes import Clash
from uncus.shop.derivation import Derivation
from uncus.shop.filling import Assemblies
from uncus.shop.joints import Made, Store, designed, joined, take, unknown_of
from uncus.shop.pieces import Assembly, Piece, Touched
from uncus.shop.rolling import straight_at
from uncus.shop.strengths import strength_of
from uncus.steel.features import Hole
from uncus.steel.joint import Contribution, Fasteners, Finding, Weld, point
from uncus.steel.profile import hole_spot


class Shop(Derivation):
    """All steel of a job. Read `assemblies` (each member with what is fixed to it) and `shipped` (what leaves the
    shop as one piece); feed `follow` every delta.

    Made `bare`, its members stand without their joints at first, as `so_far` gives them; `fill` makes some of what
    waits, and whatever is read in the meantime is made before it is given. All comes to the same in the end.
    """

    def __init__(
        self, records: Iterable[AnyRecord], aside: Iterable[Aside] = (), bare: bool = False, kept: Store | None = None
    ) -> None:
        super().__init__(records, aside, kept)
        self._unseen_by_views: set[str] = set()  # members made because they were read
        self.awaited: Callable[[], object] | None = None  # told when something cannot go on without all steel
        if bare:
            self.so_far |= {id: Assembly(b.record, (self._bare(b),), (), (), (), ()) for id, b in self._bodies.items()}
        else:
            self.complete()

    # -- what there is ----------------------------------------------------------------------------
    @property
    def assemblies(self) -> Mapping[str, Assembly]:
        """Each member with what is fixed to it, by its id."""
        return Assemblies(self.so_far, self._need_member, self.complete) if self.waiting else self.so_far

    @property
    def connections(self) -> Mapping[str, Contribution]:
        """What each connection and attachment did, by its id."""
        self.complete()
        return self._contributions

    @property
    def shipped(self) -> Mapping[str, Assembly]:
        """What leaves the shop as one piece, by the member that carries the others: what is marked, drawn and sent."""
        self.complete()
        return self._shipping.pieces

    @property
    def carried(self) -> Mapping[str, str]:
        """Of members that leave the shop as part of another's piece, whose that is."""
        self.complete()
        return self._shipping.carrier

    @property
    def carried_so_far(self) -> Mapping[str, str]:
        """The same, as far as it is known while steel waits."""
        return self._shipping.carrier

    def ships_as(self, member: str) -> str:
        """The piece that a member leaves the shop in, by its id; while steel waits, as far as it is known."""
        return self._shipping.carrier.get(member, member)

    def in_piece(self, id: str) -> tuple[str, ...]:
        """The members that leave the shop as one piece; likewise."""
        return self._shipping.groups.get(id, (id,))

    def design(self, id: str) -> Design | None:
        """A connection's strength, worked out when it is asked for and kept for as long as the joint stays the same;
        None for what carries nothing, such as a setback. Bolts that another joint at the same member brings are
        counted here too."""
        made = self._made(id)
        if made is None:
            return None
        return self._designs.of(id, made, lambda: self._designed(id))

    def _designed(self, id: str) -> Design | None:
        joint, alone = self.joint(id), self._alone.get(id)
        if joint is None or alone is None:
            return None
        at = sorted(self._at.get(joint.record.support or "", ()))
        near = ((n, other) for n in at if n != id and (other := self._alone.get(n)) and alone.near(other))
        found = (n for n, other in near if on_one_line(alone.brings.fasteners, other.brings.fasteners))
        with_ = next(found, None)
        sharing = self.joint(with_) if with_ else None
        return designed(joint, alone, (sharing, self._alone[sharing.record.id]) if sharing else None)

    def is_designed(self, id: str) -> bool:
        """Whether a connection's strength is known already."""
        made = self._made(id)
        return made is not None and self._designs.knows(id, made)

    @property
    def designs(self) -> dict[str, Design | None]:
        """The strength of connections that is worked out already; None of what carries nothing."""
        return self._designs.known(self.connections)

    def strength(self, id: str) -> Finding | None:
        """What is to be said of a connection's strength: that it fails, or what of it is not checked."""
        found, joint = self.design(id), self.joint(id)
        if found is None or joint is None:
            return None
        return strength_of(joint.record, joint.member.words, self._contributions[id], found)

    def connections_at(self, member: str) -> list[Connection]:
        """The connections a member takes part in, its own or as support."""
        return [self._connections[id] for id in sorted(self._at.get(member, ()))]

    def attachments_at(self, member: str) -> list[Attachment]:
        return [self._attachments[id] for id in sorted(self._fixed.get(member, ()))]

    def made_by(self, id: str) -> tuple[list[Piece], list[Point]]:
        """The pieces a connection or attachment made, and where its bolts and its holes in members are; of a joint
        that is welded and nothing else, along its welds."""
        made = self._made(id)
        if made is None:
            return [], []
        owners = {p.owner for p in made.parts}
        pieces = [p for o in owners if o in self.so_far for p in self.assemblies[o].pieces if p.maker == id]
        spots = [p for group in made.fasteners for p in group.points]
        stock = {s.id: s for body in self._touching(made) for s in body.stock}
        for owner, feature in made.features:
            if isinstance(feature, Hole) and owner in stock:
                frame = stock[owner].frame
                if (joint := self._connections.get(id)) and joint.member in self._bodies and owner in self._bodies:
                    frame = straight_at(self._bodies[owner], self._bodies[joint.member], joint.end)
                spots.append(point(frame.to_model(hole_spot(stock[owner].section, feature))))
        if not pieces and not spots:
            spots = [p for weld in made.welds for p in weld.path[:: max(1, len(weld.path) // 8)]]
        return pieces, spots

    def _touching(self, made: Contribution) -> list[Body]:
        return [b for id in {o.partition("/")[0] for o, _ in made.features} if (b := self._bodies.get(id))]

    def pieces(self) -> Iterable[Piece]:
        for assembly in self.assemblies.values():
            yield from assembly.pieces

    def fasteners(self) -> Iterable[Fasteners]:
        for made in self.connections.values():
            yield from made.fasteners

    def welds(self) -> Iterable[Weld]:
        """Every weld once: those of the shop with their assemblies, those on site with the end they are at."""
        for assembly in self.shipped.values():
            yield from assembly.welds
            yield from assembly.site_welds

    @property
    def bodies(self) -> Mapping[str, Body]:
        """Where each member is, by its id."""
        return self._bodies

    def body(self, member: str) -> Body | None:
        return self._bodies.get(member)

    def said(self, id: str) -> tuple[Finding, ...]:
        """What is found at a connection, an attachment or, where it is no joint's, a member: by its kind, by the
        inspection, and by holding its steel against all that is about it."""
        made = self._made(id)
        return (*(made.findings if made else ()), *self._inspection.of(id))

    @property
    def clashes(self) -> list[tuple[Clash, str]]:
        """Steel that fills other steel, each pair of pieces by itself, in words that do not say where."""
        self.complete()
        return list(self._inspection.clashes())

    @property
    def all_findings(self) -> list[Finding]:
        return [*self.made_findings, *(f for found in self._inspection.clash_findings().values() for f in found)]

    @property
    def unwelded(self) -> list[Finding]:
        """What is said of welds once they stand beside all other steel."""
        return list(self._inspection.unwelded())

    @property
    def made_findings(self) -> list[Finding]:
        """What is found in the making: by kinds, of welds, of pieces that cannot be made; without clashes."""
        made = [f for c in self.connections.values() for f in c.findings]
        made += self.unwelded
        made += [f for a in self.assemblies.values() for f in a.findings if f.about == a.id]
        return made + [f for found in self.findings.values() for f in found]

    @property
    def known_findings(self) -> list[Finding]:
        """All findings, and those on the strength of joints that is worked out by now."""
        known = (self.strength(id) for id in self.connections if self.is_designed(id))
        return [*self.all_findings, *(found for found in known if found is not None)]

    # -- filling ----------------------------------------------------------------------------------
    def complete(self) -> None:
        """Make all that waits, or let `awaited` see to it."""
        if self.waiting and self.awaited is not None:
            self.awaited()
        while self.waiting:
            self._unseen_by_views |= self._fill(len(self.waiting), len(self.waiting)).rebuilt

    def unknown(self, most: int | None = None) -> list[Home[Joint]]:
        """Of the (first so many) joints that wait, those that nothing alike is known of: one of each kind, at home."""
        ids = islice(self.waiting.joints, most)
        there = {id: home for id in ids if (home := self._home(id)) is not None}
        self._homes |= there
        return list(unknown_of(there.values(), self._kept).values())

    def join_known(self, most: int) -> list[Home[Joint]]:
        """Join those of the first so many waiting joints that something alike is known of; the others, at home, are put
        off to the end."""
        ids = [id for id in islice(self.waiting.joints, most) if self._connections.get(id)]
        there = [(id, home) for id in ids if (home := self._home(id)) is not None]
        unknown = unknown_of([home for _, home in there], self._kept)
        for id, home in there:
            del self.waiting.joints[id]
            if home.key in unknown:
                self.waiting.joints[id], self._homes[id] = None, home
            else:
                self._alone[id] = joined(home)
        self._join(set(ids) - {id for id, _ in there})
        return list(unknown.values())

    def keep_in(self, kept: Store | None) -> None:
        """Where joints that were made before are kept from now on."""
        self._kept = kept

    def take(self, made: Mapping[bytes, Made]) -> None:
        """Know joints that were made ahead, by their keys."""
        take(made, self._kept)

    def fill(self, joints: int = 40, members: int = 40) -> Touched:
        """Make some of what waits, so many joints or else so many members, and say what is new to be seen."""
        touched = self._fill(joints, members)
        read, self._unseen_by_views = self._unseen_by_views, set()
        return msgspec.structs.replace(touched, rebuilt=touched.rebuilt | (read & self.so_far.keys()))

    def _fill(self, joints: int, members: int) -> Touched:
        wait = self.waiting
        if wait.joints:
            self._join(list(islice(wait.joints, joints)))
            return Touched()
        return self._turn(set(islice(wait.members, members)))

    def _turn(self, members: set[str]) -> Touched:
        """Members that waited made; the last of them lets it be known what ships as one piece."""
        wait = self.waiting
        for id in members:
            wait.members.pop(id, None)
        touched = Touched(*self._stand(set(), members, wait.members.keys()))
        if wait:
            return touched
        shipped, withdrawn = self._ship(self.so_far)
        return msgspec.structs.replace(touched, shipped=shipped, withdrawn=withdrawn)

    def _need_member(self, id: str) -> None:
        self._need((id,))

    def _need(self, members: Iterable[str]) -> None:
        """Make some members now, with the joints at them and all that those hang on."""
        mine = self.waiting.members.keys() & members
        if mine:
            near = {m for id in mine for n in self._at.get(id, ()) for m in self._connections[n].members} | mine
            self._join({n for m in near for n in self._at.get(m, ())} & self.waiting.joints.keys())
            self._unseen_by_views |= self._turn(mine).rebuilt

    def _made(self, id: str) -> Contribution | None:
        """What a connection or attachment did."""
        self._need(self._members_of(id) or (id,))
        return self._contributions.get(id)


def build(job: Job, bare: bool = False, kept: Store | None = None) -> Shop:
    """All steel of a job as it stands; `bare`: members without their joints, which are made later. Joints that were
    made before may be `kept`."""
    return Shop(job.records.values(), job.aside, bare, kept)
