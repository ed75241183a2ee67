"""The derivation: members become parts, connections contribute, and a change recomputes only what it touched."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Set

import msgspec

from uncus.caches import Beside
from uncus.catalog.bought import key_of
from uncus.catalog.grades import usual_grade
from uncus.connect import protected
from uncus.connect.alike import Home
from uncus.connect.attachments.kind import Fitting
from uncus.connect.attachments.kinds import ATTACHMENTS
from uncus.connect.buildable import drop_in
from uncus.connect.kind import Body, Joint
from uncus.connect.kinds import KINDS, also_served
from uncus.connect.own_ends import own_ends
from uncus.connect.protected import Brought, Zone
from uncus.connect.sharing import settled, yielding
from uncus.connect.strength.design import Design
from uncus.job.aside import Aside
from uncus.job.job import Delta
from uncus.job.records import AnyRecord, Attachment, Connection, End, Member, Project, ShopRules
from uncus.shop.clashes import Steel
from uncus.shop.filling import Waiting
from uncus.shop.holders import holder
from uncus.shop.inspection import Inspection
from uncus.shop.joints import Joined, Store, attached, home_of, joined_all, why
from uncus.shop.own_parts import bare_part, own_part
from uncus.shop.pieces import Assembly, Piece, Touched
from uncus.shop.records import Records
from uncus.shop.rolling import cut_on, feature_on, straight_at
from uncus.shop.several import Stock, is_several, with_lengths
from uncus.shop.shipping import Bond, Shipping, bond
from uncus.steel.features import EndCut, Feature
from uncus.steel.joint import Contribution, Fasteners, Finding, Weld
from uncus.steel.part import Part

_AT_ONCE = 500  # joints that are looked up together


class Derivation:
    """Makes a job's steel of its records. Members stand bare at first (`so_far`); joints and members that are `waiting`
    are made in any order, and it comes to the same."""

    def __init__(self, records: Iterable[AnyRecord], aside: Iterable[Aside] = (), kept: Store | None = None) -> None:
        self.so_far: dict[str, Assembly] = {}
        self._kept = kept
        self.findings: dict[str, tuple[Finding, ...]] = {}
        self._records = Records(self.findings)
        self._bodies, self._at, self._fixed = self._records.bodies, self._records.at, self._records.fixed
        self._connections, self._attachments = self._records.connections, self._records.attachments
        self._alone: dict[str, Joined] = {}  # what each connection brings, were there no other
        self._homes: dict[str, Home[Joint]] = {}  # of joints looked at before their turn
        self._contributions: dict[str, Contribution] = {}
        self._designs: Beside[str, Design | None] = Beside()
        self._bonds: dict[str, Bond] = {}
        self._fitted: dict[str, tuple[Fitting, Contribution]] = {}  # of each attachment, what was made of what
        self._shipping = Shipping()
        self._inspection = Inspection()
        records = list(records)
        for record in records:
            self._records.take(record)
        for one in aside:
            self.findings[one.id] = (Finding(one.about, one.text),)
        members = [r.id for r in records if isinstance(r, Member) and r.id in self._bodies]
        self.waiting = Waiting(self._connections, members)

    @property
    def _rules(self) -> ShopRules:
        return self._records.rules

    @property
    def _project(self) -> Project:
        return self._records.project

    # -- what one joint is given ---------------------------------------------------------------------
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
        code = record.params.get("code")
        item = self._records.items.get(key_of(code)) if isinstance(code, str) else None
        return Fitting(record, body, self._rules, left, right, tuple(sorted(set(loads))), ends, units, mate, item)

    # -- following a change --------------------------------------------------------------------------
    def follow(self, delta: Delta) -> Touched:
        """Recompute what a delta touches and say what that was."""
        self._homes.clear()
        for edit in delta.edits:
            self.findings.pop(edit.id, None)
        woken = self._records.follow(delta)
        for edit in delta.edits:
            if isinstance(edit.before, Attachment):
                self._contributions.pop(edit.id, None)
                self._bonds.pop(edit.id, None)
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
        found: list[tuple[Connection, Home[Joint]]] = []
        for id in self._records.in_order(joints):
            self.waiting.joints.pop(id, None)
            home = self._home(id)
            if home is not None:
                found.append((self._connections[id], home))
            else:
                self._alone.pop(id, None)
                members |= self._touches(self._contributions.pop(id, None))
                self._bonds.pop(id, None)
        for some in (found[i : i + _AT_ONCE] for i in range(0, len(found), _AT_ONCE)):
            for (record, _), made in zip(some, joined_all([home for _, home in some], self._kept), strict=True):
                self._alone[record.id] = made
                members |= {record.member}
                members |= {m for m in record.members if self._fixed.get(m)}  # what stands at loads moves with them
        return members

    def _home(self, id: str) -> Home[Joint] | None:
        """A joint taken home, once; None where its own member is gone."""
        home = self._homes.pop(id, None)
        if home is None and (joint := self.joint(id)) is not None:
            home = home_of(joint)
        return home

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

    # -- joints beside joints ------------------------------------------------------------------------
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
                self._bonds.pop(id, None)
                self._fitted.pop(id, None)
            else:
                joints = {n: self._contributions[n] for n in self._at.get(member, ()) if n in self._contributions}
                known = self._fitted.get(id)
                if known is None or not fitting.is_as(known[0]):  # else come upon from its other member
                    known = self._fitted[id] = fitting, attached(fitting)
                self._contributions[id] = made = yielding(known[1], joints)
                self._bind(id, made)

    # -- assemblies ----------------------------------------------------------------------------------
    def _makers(self, member: str) -> list[str]:
        """Connections and attachments of a member, in the order in which they are applied."""
        return [*sorted(self._at.get(member, ())), *sorted(self._fixed.get(member, ()))]

    def _cuts(self, body: Body) -> dict[End, EndCut]:
        """A member's ends as its joints cut them."""
        member = body.record
        cuts = dict(zip((End.LEFT, End.RIGHT), own_ends(body), strict=True))
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
        finish = body.record.finish or self._project.finish
        try:
            part, shift = own_part(body, finish, own_ends(body))
        except ValueError:  # said when it is made with its joints
            part, shift = bare_part(body, finish)
        return _main(body, part, shift)

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
        try:
            part, shift = own_part(body, finish, (cuts[End.LEFT], cuts[End.RIGHT]), features)
        except ValueError as error:
            findings.append(Finding(member.id, f"The {body.words} cannot be made: {str(error).rstrip('.')}."))
            part, shift = bare_part(body, finish)
        main = _main(body, part, shift)
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


def _main(body: Body, part: Part, shift: float) -> Piece:
    """A member's own length where it stands."""
    place = body.along(shift + part.length / 2).moved((shift, 0.0, 0.0))
    return Piece(body.id, part, place, body.id, str(body.record.role), body.id)


def _finished(part: Part, finish: str) -> Part:
    return msgspec.structs.replace(part, finish=finish)
