"""The derivation: members become parts, connections contribute, and a change recomputes only what it touched."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Set
from itertools import islice

import msgspec

from uncus.caches import Beside
from uncus.catalog.grades import usual_grade
from uncus.connect import protected
from uncus.connect.alike import Home, joint_home
from uncus.connect.attachments.kind import Fitting
from uncus.connect.attachments.kinds import ATTACHMENTS
from uncus.connect.buildable import drop_in
from uncus.connect.kind import Body, Joint
from uncus.connect.kinds import KINDS, also_served
from uncus.connect.protected import Brought, Zone
from uncus.connect.sharing import on_one_line, settled, yielding
from uncus.connect.strength.design import Design, State
from uncus.job.aside import Aside
from uncus.job.job import Delta, Job
from uncus.job.records import AnyRecord, Attachment, Connection, End, Member, Point, Project, ShopRules
from uncus.shop.clashes import Steel
from uncus.shop.filling import Assemblies, Waiting
from uncus.shop.holders import holder
from uncus.shop.inspection import Inspection
from uncus.shop.joints import Joined, Made, Store, attached, designed, joined, joined_all, take, unknown_of, why
from uncus.shop.pieces import Assembly, Piece, Touched
from uncus.shop.records import Records
from uncus.shop.rolling import cut_on, feature_on, straight_at
from uncus.shop.several import Stock, is_several, with_lengths
from uncus.shop.shipping import Bond, Shipping, bond
from uncus.steel.features import EndCut, Feature, Hole
from uncus.steel.forming import Curve
from uncus.steel.joint import Contribution, Fasteners, Finding, Severity, Weld, point
from uncus.steel.part import Part, rolled
from uncus.steel.profile import hole_spot

_AT_ONCE = 500  # joints that are looked up together


class Shop:
    """All steel of a job. Read `assemblies` (each member with what is fixed to it) and `shipped` (what leaves the
    shop as one piece); feed `follow` every delta.

    Made `bare`, its members stand without their joints at first, as `so_far` gives them; `fill` makes some of what
    waits, and whatever is read in the meantime is made before it is given. All comes to the same in the end.
    """

    def __init__(
        self, records: Iterable[AnyRecord], aside: Iterable[Aside] = (), bare: bool = False, kept: Store | None = None
    ) -> None:
        self.so_far: dict[str, Assembly] = {}
        self._kept = kept
        self.findings: dict[str, tuple[Finding, ...]] = {}
        self._records = Records(self.findings)
        self._bodies, self._at, self._fixed = self._records.bodies, self._records.at, self._records.fixed
        self._connections, self._attachments = self._records.connections, self._records.attachments
        self._alone: dict[str, Joined] = {}  # what each connection brings, were there no other
        self._contributions: dict[str, Contribution] = {}
        self._designs: Beside[str, Design | None] = Beside()
        self._bonds: dict[str, Bond] = {}
        self._shipping = Shipping()
        self._inspection = Inspection()
        records = list(records)
        for record in records:
            self._records.take(record)
        for one in aside:
            self.findings[one.id] = (Finding(one.about, one.text),)
        members = [r.id for r in records if isinstance(r, Member) and r.id in self._bodies]
        self.waiting = Waiting(self._connections, members)
        self._unseen_by_views: set[str] = set()  # members made because they were read
        if bare:
            self.so_far |= {id: Assembly(b.record, (self._bare(b),), (), (), (), ()) for id, b in self._bodies.items()}
        else:
            self.complete()

    @property
    def _rules(self) -> ShopRules:
        return self._records.rules

    @property
    def _project(self) -> Project:
        return self._records.project

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

    def joint(self, id: str) -> Joint | None:
        """A connection with the members it joins, as its kind is given it; None where its own member is gone."""
        record = self._connections.get(id)
        return self.joint_for(record) if record else None

    def joint_for(self, record: Connection) -> Joint | None:
        """A connection that may not be in the job yet, with the members it would join and the joint at the other
        end."""
        joint = self._joint(record)
        far = (self._connections[id] for id in sorted(self._at.get(record.member, ())))
        mate = next((c for c in far if c.member == record.member and c.end is not record.end), None)
        return msgspec.structs.replace(joint, mate=self._joint(mate)) if joint and mate else joint

    def _joint(self, record: Connection) -> Joint | None:
        body = self._bodies.get(record.member)
        if body is None:
            return None
        here = body.end(record.end)
        support = self._bodies.get(record.support) if record.support else None
        others = tuple(b.touching(here) for other in record.others if (b := self._bodies.get(other)))
        held = {record.support, *record.others} - {None, record.member}
        ids = sorted({id for m in held for id in self._at.get(m or "", ())} - {record.id})
        under = tuple(c for id in ids if (c := self._connections[id]).member in held)
        near = support.touching(here) if support else None
        rules, job = self._rules.at_depth(body.section.d), self._project
        return Joint(record, body.touching(here), near, rules, others, under, None, job.units, job.designed_by)

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

    def strength(self, id: str) -> Finding | None:
        """What is to be said of a connection's strength: that it fails, or what of it is not checked."""
        found, joint = self.design(id), self.joint(id)
        if found is None or joint is None or (not self._contributions[id].parts and not found.limits):
            return None
        kind = KINDS.get(joint.record.kind)
        words = f"The {kind.name if kind else joint.record.kind} at the {joint.member.words}"
        if found.state is State.FAILS:
            worst = found.limits[0]
            text = (
                f"{words} fails: {worst.words.lower()} ({worst.where}) is used to {worst.used * 100:.0f} %. Give it "
                f"more, or less load."
            )
            return Finding(id, text)
        if found.state is State.NOT_CHECKED:
            return Finding(id, f"{words} is not checked for: {'; '.join(found.unchecked)}.", Severity.LOOK)
        return None

    def connections_at(self, member: str) -> list[Connection]:
        """The connections a member takes part in, its own or as support."""
        return [self._connections[id] for id in sorted(self._at.get(member, ()))]

    def attachments_at(self, member: str) -> list[Attachment]:
        return [self._attachments[id] for id in sorted(self._fixed.get(member, ()))]

    def fitting(self, record: Attachment) -> Fitting | None:
        """An attachment with its member as its joints leave it; None where the member is gone."""
        body = self._bodies.get(record.member)
        if body is None:
            return None
        cuts, joined, loads = self._cuts(body), [], []
        for id in self._at.get(body.id, ()):
            c = self._connections[id]
            if c.member == body.id:
                joined += [c.end] if c.kind != "setback" else []
                continue
            held = self._bodies.get(c.member)
            if held is not None and id in self._contributions:
                at = held.end(c.end)
                loads.append(round(body.arc.nearest(at) if body.arc else float(body.frame.to_local(at)[0]), 6))
        s = body.section
        corners = [(y, z) for y in (-s.b / 2, s.b / 2) for z in (-s.d / 2, s.d / 2)]
        left = max(cuts[End.LEFT].x(*c) for c in corners)
        right = min(cuts[End.RIGHT].x(*c) for c in corners)
        ends, units = tuple(sorted(joined)), self._project.units
        mate = self._bodies.get(record.mate) if record.mate else None
        return Fitting(record, body, self._rules, left, right, tuple(sorted(set(loads))), ends, units, mate)

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

    def body(self, member: str) -> Body | None:
        return self._bodies.get(member)

    def said(self, id: str) -> tuple[Finding, ...]:
        """What is found at a connection, an attachment or, where it is no joint's, a member: by its kind, by the
        inspection, and by holding its steel against all that is about it."""
        made = self._made(id)
        return (*(made.findings if made else ()), *self._inspection.of(id))

    @property
    def all_findings(self) -> list[Finding]:
        made = [f for c in self.connections.values() for f in c.findings]
        made += self._inspection.all()
        made += [f for a in self.assemblies.values() for f in a.findings if f.about == a.id]
        return made + [f for found in self.findings.values() for f in found]

    @property
    def known_findings(self) -> list[Finding]:
        """All findings, and those on the strength of joints that is worked out by now."""
        known = (self.strength(id) for id in self.connections if self.is_designed(id))
        return [*self.all_findings, *(found for found in known if found is not None)]

    # -- following a change -----------------------------------------------------------------------
    def follow(self, delta: Delta) -> Touched:
        """Recompute what a delta touches and say what that was."""
        for edit in delta.edits:
            self.findings.pop(edit.id, None)
        woken = self._records.follow(delta)
        for edit in delta.edits:
            if isinstance(edit.before, Attachment):
                self._contributions.pop(edit.id, None)
        for id in woken.members:
            woken.joints |= self._at.get(id, set())
        for member in {c.member for id in woken.joints if (c := self._connections.get(id))}:
            woken.joints |= {
                n for n in self._at[member] if self._connections[n].member == member
            }  # each knows its mate
        return self._rework(woken.joints, woken.members | woken.beside, woken.gone)

    def _rework(self, joints: set[str], members: set[str], gone: frozenset[str] | set[str] = frozenset()) -> Touched:
        rebuilt, lost = self._stand(joints, members | self._join(joints))
        return Touched(rebuilt, lost | frozenset(gone), *self._ship(rebuilt))

    def _ship(self, rebuilt: Iterable[str]) -> tuple[frozenset[str], frozenset[str]]:
        return self._shipping.follow(
            self.so_far, set(rebuilt), self._bonds, self._contributions, self._records.in_order
        )

    def _join(self, joints: Iterable[str]) -> set[str]:
        """Make joints anew, each as if there were no other; the members that change by it."""
        members: set[str] = set()
        found: list[Joint] = []
        for id in self._records.in_order(joints):
            self.waiting.joints.pop(id, None)
            joint = self.joint(id)
            if joint is not None:
                found.append(joint)
            else:
                self._alone.pop(id, None)
                members |= self._touches(self._contributions.pop(id, None))
                self._bonds.pop(id, None)
        for some in (found[i : i + _AT_ONCE] for i in range(0, len(found), _AT_ONCE)):
            for joint, made in zip(some, joined_all([joint_home(joint) for joint in some], self._kept), strict=True):
                record = joint.record
                self._alone[record.id] = made
                members |= {record.member}
                members |= {m for m in record.members if self._fixed.get(m)}  # what stands at loads moves with them
        return members

    def _stand(
        self, joints: set[str], members: set[str], later: Set[str] = frozenset()
    ) -> tuple[frozenset[str], frozenset[str]]:
        """Settle joints with those beside them and make what they go into anew, but for members whose turn is `later`:
        members that were made, and those that are gone."""
        changed = {m for id in joints if id in self._connections for m in self._connections[id].members} | members
        beside = {n for m in changed for n in self._at.get(m, ())}
        for id in joints | beside:  # a joint's strength may hang on the loads of one that shares its bolts
            self._designs.forget(id)
        anew: set[str] = set()
        for id in self._records.in_order((joints | beside) & self._alone.keys()):
            made = self._settled(id)
            before = self._contributions.get(id)
            if made is not before and (id in joints or before is None or made != before):
                anew.add(id)
                members |= self._touches(before) | self._touches(made)
                self._contributions[id] = made
                self._bind(id, made)
        # what two members have between them changes both
        members |= {m for id in members for a in self._fixed.get(id, ()) for m in self._attachments[a].members}
        members = {id for id in members if id not in later}
        ordered = self._records.in_order(members)
        for id in ordered:
            self._refit(id)
            anew |= self._fixed.get(id, set())
        rebuilt = set()
        for id in ordered:
            body = self._bodies.get(id)
            if body is None:
                self.so_far.pop(id, None)
                continue
            self.so_far[id] = self._assembled(body)
            rebuilt.add(id)
        steel = Steel(self._bodies, self._connections, self._attachments, self._contributions, self._at, self._fixed,
            self._project.units)  # fmt: skip
        self._inspection.follow(steel, self.so_far, rebuilt, members - rebuilt, self._to_see(anew, members))
        return frozenset(rebuilt), frozenset(m for m in members if m not in self.so_far)

    # -- filling ----------------------------------------------------------------------------------
    def complete(self) -> None:
        """Make all that waits."""
        while self.waiting:
            self._unseen_by_views |= self._fill(len(self.waiting), len(self.waiting)).rebuilt

    def unknown(self, most: int | None = None) -> list[Home[Joint]]:
        """Of the (first so many) joints that wait, those that nothing alike is known of: one of each kind, at home."""
        ids = islice(self.waiting.joints, most)
        homes = [joint_home(joint) for id in ids if (joint := self.joint(id)) is not None]
        return list(unknown_of(homes, self._kept).values())

    def join_known(self, most: int) -> list[Home[Joint]]:
        """Join those of the first so many waiting joints that something alike is known of; the others, at home, are put
        off to the end."""
        ids = [id for id in islice(self.waiting.joints, most) if self._connections.get(id)]
        there = [(id, joint_home(joint)) for id in ids if (joint := self.joint(id)) is not None]
        unknown = unknown_of([home for _, home in there], self._kept)
        for id, home in there:
            del self.waiting.joints[id]
            if home.key in unknown:
                self.waiting.joints[id] = None
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

    def _to_see(self, anew: set[str], members: set[str]) -> set[str]:
        """Joints whose welds can be looked at, of those made anew now or before: all their members stand."""
        wait = self.waiting
        if not wait and not wait.unseen:
            return anew
        wait.unseen |= dict.fromkeys(anew)
        near = {n for m in members for n in (*self._at.get(m, ()), *self._fixed.get(m, ()))} | anew
        ready = {id for id in near & wait.unseen.keys() if wait.members.keys().isdisjoint(self._members_of(id))}
        for id in ready:
            del wait.unseen[id]
        return ready

    def _members_of(self, id: str) -> tuple[str, ...]:
        record = self._connections.get(id) or self._attachments.get(id)
        return record.members if record else ()

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

    def _touches(self, made: Contribution | None) -> set[str]:
        """Members whose assemblies a contribution goes into."""
        if made is None:
            return set()
        bored = {owner.partition("/")[0] for owner, _ in made.features} | {p.owner for p in made.parts}
        ones: tuple[Fasteners | Weld, ...] = (*made.fasteners, *made.welds)
        joined = {piece.partition("/")[0] for one in ones if one.field for piece in one.joins}
        return bored | {owner for owner, _, _ in made.cuts} | (joined & self._bodies.keys())

    def _bind(self, id: str, made: Contribution) -> None:
        """Note which members a connection makes one piece of."""
        found = bond(made, self._bodies)
        if found is not None:
            self._bonds[id] = found
        else:
            self._bonds.pop(id, None)

    def _settled(self, id: str) -> Contribution:
        """A connection's contribution beside those of others at the same members."""
        own, record = self._alone[id], self._connections[id]
        made = own.brings
        at = {n for m in record.members for n in self._at[m] if n != id and n in self._alone}
        near = {n: self._alone[n].brings for n in at if own.near(self._alone[n])}
        if not near:
            return made
        stocks = {s.id: s for m in record.members if (b := self._bodies.get(m)) for s in b.stock}
        return settled(id, made, near, stocks)

    def _refit(self, member: str) -> None:
        """A member's attachments made anew, now that its joints are."""
        for id in sorted(self._fixed.get(member, ())):
            fitting = self.fitting(self._attachments[id])
            if fitting is None:
                self._contributions.pop(id, None)
            else:
                joints = {n: self._contributions[n] for n in self._at.get(member, ()) if n in self._contributions}
                self._contributions[id] = yielding(attached(fitting), joints)

    def _makers(self, member: str) -> list[str]:
        """Connections and attachments of a member, in the order in which they are applied."""
        return [*sorted(self._at.get(member, ())), *sorted(self._fixed.get(member, ()))]

    def _cuts(self, body: Body) -> dict[End, EndCut]:
        """A member's ends as its joints cut them."""
        member = body.record
        cuts = {End.LEFT: EndCut(member.left_back), End.RIGHT: EndCut(body.length - member.right_back)}
        for id in self._makers(member.id):
            made = self._contributions.get(id)
            for owner, end, cut in made.cuts if made else ():
                if owner == member.id:
                    back = member.left_back if end is End.LEFT else -member.right_back
                    moved = cut.moved(back)
                    cuts[end] = cut_on(body.arc, body.touching(body.end(end)).frame, moved) if body.arc else moved
        return cuts

    def _assembled(self, body: Body) -> Assembly:
        """A member with what is fixed to it; its bare stock and a finding where a fault of ours prevents that."""
        try:
            return self._assemble(body)
        except Exception as error:
            piece = self._bare(body)
            text = f"The {body.words} could not be made with what is fixed to it: {why(error)}"
            return Assembly(body.record, (piece,), (), (), (), (Finding(body.id, text),))

    def _bare(self, body: Body) -> Piece:
        """A member's stock from work point to work point, without joints."""
        grade, finish = body.record.grade or usual_grade(body.section), body.record.finish or self._project.finish
        curve = Curve.of(body.arc.radius, body.arc.turn) if body.arc else None
        part, shift = rolled(body.section, grade, finish, EndCut(0.0), EndCut(body.length), (), curve)
        place = body.along(shift + part.length / 2).moved((shift, 0.0, 0.0))
        return Piece(body.id, part, place, body.id, str(body.record.role), body.id)

    def _assemble(self, body: Body) -> Assembly:
        member = body.record
        cuts = self._cuts(body)
        features: list[Feature] = []
        mate: list[Feature] = []
        parts: list[Piece] = []
        welds: list[Weld] = []
        holds: list[Fasteners] = []
        site_welds: list[Weld] = []
        findings: list[Finding] = []
        finish = member.finish or self._project.finish
        for id in self._makers(member.id):
            made = self._contributions.get(id)
            if made is None:
                continue
            record = self._connections.get(id) or self._attachments[id]
            features += self._features(body, id, made)
            mate += [f for owner, f in made.features if owner == f"{member.id}/mate"]
            own = [p for p in made.parts if p.owner == member.id]
            for p in own:
                part = p.part if p.part.finish else _finished(p.part, finish)
                parts.append(Piece(f"{id}/{p.key}", part, p.placement, member.id, p.words, id))
            welds += [w for w in made.welds if not w.field]
            site = self._rules.site_with
            holds += [g for g in made.fasteners if holder(record, made, g.joins, g.field, site) == member.id]
            site_welds += [w for w in made.welds if w.field and holder(record, made, w.joins, True, site) == member.id]
            if record.member == member.id:
                findings += made.findings
        brought = self._brought_in(member.id)
        findings += [brought] if brought else []
        zones, intruding = self._protected(body, cuts)
        findings += intruding
        here = {member.id, f"{member.id}/mate", *(p.id for p in parts)}
        welds = [w for w in welds if here.issuperset(w.joins)]
        grade = member.grade or usual_grade(body.section)
        held = tuple(welds), tuple(holds), tuple(site_welds), tuple(findings)
        if is_several(body):
            between = cuts[End.LEFT].at, cuts[End.RIGHT].at
            stock = Stock(grade, finish, between, (features, mate), self._rules.plate_grade)
            return with_lengths(body, stock, Assembly(member, tuple(parts), *held, zones))
        curve = Curve.of(body.arc.radius, body.arc.turn) if body.arc else None
        try:
            part, shift = rolled(body.section, grade, finish, cuts[End.LEFT], cuts[End.RIGHT], features, curve)
        except ValueError as error:
            findings.append(Finding(member.id, f"The {body.words} cannot be made: {error}."))
            part, shift = rolled(body.section, grade, finish, EndCut(0.0), EndCut(body.length), (), curve)
        place = body.along(shift + part.length / 2).moved((shift, 0.0, 0.0))
        main = Piece(member.id, part, place, member.id, str(member.role), member.id)
        held = tuple(welds), tuple(holds), tuple(site_welds), tuple(findings)
        return Assembly(member, (main, *parts), *held, zones)

    def _protected(self, body: Body, cuts: Mapping[End, EndCut]) -> tuple[tuple[Zone, ...], list[Finding]]:
        """The protected zones of a member of a seismic frame, and what stands in them."""
        if not body.record.seismic:
            return (), []
        brought = [b for id in self._makers(body.id) if (b := self._bringing(body, id)) is not None]
        found = protected.zones(body, (cuts[End.LEFT].at, cuts[End.RIGHT].at), brought)
        told = protected.intruders(body, found, brought, self._project.units)
        return found, [Finding(body.id, text) for text in told]

    def _bringing(self, body: Body, id: str) -> Brought | None:
        """What a joint or attachment does at a member, as its protected zones ask."""
        made, record = self._contributions.get(id), self._connections.get(id)
        if made is None:
            return None
        if record is None:
            name = self._attachments[id].kind
            return Brought(id, ATTACHMENTS[name].words if name in ATTACHMENTS else name, made)
        kind = KINDS.get(record.kind)
        if kind is None or not kind.carries or body.id not in (record.member, *also_served(record)):
            return Brought(id, kind.words if kind else record.kind, made)
        return Brought(id, kind.words, made, self.joint(id), kind.protects)

    def _features(self, body: Body, id: str, made: Contribution) -> list[Feature]:
        """What a joint or attachment does to a member's own piece."""
        found = [f for owner, f in made.features if owner == body.id]
        joint = self._connections.get(id)
        if body.arc is None or joint is None or joint.member not in self._bodies:
            return found
        straight = straight_at(body, self._bodies[joint.member], joint.end)
        return [feature_on(body, straight, f) for f in found]

    def _brought_in(self, member: str) -> Finding | None:
        """Why a member cannot be brought to its place, from the joints at its two ends."""
        own = sorted(id for id in self._at.get(member, ()) if self._connections[id].member == member)
        ends = [self._alone[id].entry for id in own if id in self._alone]
        return drop_in.inspect(self._bodies[member], ends) if len(own) > 1 else None


def _finished(part: Part, finish: str) -> Part:
    return msgspec.structs.replace(part, finish=finish)


def build(job: Job, bare: bool = False, kept: Store | None = None) -> Shop:
    """All steel of a job as it stands; `bare`: members without their joints, which are made later. Joints that were
    made before may be `kept`."""
    return Shop(job.records.values(), job.aside, bare, kept)
