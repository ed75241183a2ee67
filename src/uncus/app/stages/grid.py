"""Grid and levels, typed."""

from __future__ import annotations

import msgspec
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QFormLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from uncus.app.session import Session
from uncus.frame.grids import make_grid
from uncus.job.errors import JobError
from uncus.job.records import Level
from uncus.units import UnitError, format_length, parse_length, parse_lengths


class GridDialog(QDialog):
    """Spacings each way, and levels as `name height` pairs; nothing changes until it is accepted."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.setWindowTitle("Grid and levels")
        units, grid = session.units, session.grid
        example = "3@24', 20'" if session.imperial else "3@7200, 6000"
        self.across, self.up, self.levels = QLineEdit(), QLineEdit(), QLineEdit()
        if grid:
            self.across.setText(_spacings([g.at for g in grid.numbers], units))
            self.up.setText(_spacings([g.at for g in grid.letters], units))
        found = sorted(session.job.all(Level), key=lambda level: level.elevation)
        self.levels.setText(", ".join(f"{level.name} {format_length(level.elevation, units)}" for level in found))
        for field, name in (
            (self.across, "Spacings of numbered lines"),
            (self.up, "Spacings of lettered lines"),
            (self.levels, "Levels"),
        ):
            field.setAccessibleName(name)
            field.setMinimumWidth(420)
        self.across.setPlaceholderText(example)
        self.up.setPlaceholderText(example)
        self.levels.setPlaceholderText("Ground 0, Floor 12'-0" if session.imperial else "Ground 0, Floor 3600")
        self.error = QLabel(" ")
        self.error.setProperty("error", True)
        self.error.setAccessibleName("What is wrong")
        self.error.setWordWrap(True)
        form = QFormLayout()
        form.addRow("Numbered lines, left to right", self.across)
        form.addRow("Lettered lines, front to back", self.up)
        form.addRow("Levels", self.levels)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        hint = QLabel(f"Spacings between lines, such as {example}; levels as a name and a height, with commas between.")
        hint.setProperty("quiet", True)
        layout.addWidget(hint)
        layout.addLayout(form)
        layout.addWidget(self.error)
        layout.addWidget(buttons)

    def accept(self) -> None:
        try:
            records = self._records()
            with self.session.job.change("Grid and levels") as change:
                kept = {r.id for r in records}
                for level in self.session.job.all(Level):
                    if level.id not in kept:
                        change.drop(level.id)
                for record in records:
                    change.put(record)
        except (UnitError, JobError) as error:
            self.error.setText(str(error))
            return
        super().accept()

    def _records(self) -> list:  # type: ignore[type-arg]
        units, old = self.session.units, self.session.grid
        across, up = parse_lengths(self.across.text(), units), parse_lengths(self.up.text(), units)
        if min([*across, *up], default=1) <= 0:
            raise UnitError("Spacings run one way: each must be more than nothing.")
        grid = make_grid(across, up)
        if old is not None:
            grid = msgspec.structs.replace(grid, id=old.id)
        else:
            grid = msgspec.structs.replace(grid, id="grid")
        known = {level.name: level for level in self.session.job.all(Level)}
        levels: dict[str, Level] = {}
        for item in filter(None, (piece.strip() for piece in self.levels.text().split(","))):
            name, _, height = item.rpartition(" ")
            if (
                "/" in height and name.rpartition(" ")[2][:1].isdigit()
            ):  # a height such as 12'-6 1/2 has a space of its own
                name, _, whole = name.rpartition(" ")
                height = f"{whole} {height}"
            if not name:
                raise UnitError(f"“{item}” needs a name and a height, such as Floor 12'-0.")
            if name in levels:
                raise UnitError(f"Two levels are called “{name}”; give each its own name.")
            z = parse_length(height, units)
            before = known.get(name)
            levels[name] = msgspec.structs.replace(before, elevation=z) if before else Level(name=name, elevation=z)
        return [grid, *levels.values()]


def _spacings(positions: list[float], units) -> str:  # type: ignore[no-untyped-def]
    steps = [b - a for a, b in zip(positions, positions[1:], strict=False)]
    out: list[tuple[int, str]] = []
    for step in steps:
        words = format_length(step, units)
        if out and out[-1][1] == words:
            out[-1] = (out[-1][0] + 1, words)
        else:
            out.append((1, words))
    return ", ".join(f"{n}@{w}" if n > 1 else w for n, w in out)
