"""The table of outputs: package, command line and the stage Deliver read it. A new writer is one row."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from functools import partial

import msgspec

from uncus.bill.listing import all_lists, some_lists, template_named
from uncus.bill.lists import held_list
from uncus.bill.sources import Billing
from uncus.bill.stood import PIECES, pieces_bytes, pieces_of
from uncus.bill.table import Table
from uncus.catalog.sections import Form
from uncus.deliver.ifc import IFC2X3, IFC4, ifc_text
from uncus.deliver.ifc_sheets import paper_of
from uncus.deliver.making import File, Making
from uncus.deliver.material import material
from uncus.deliver.nc import Heading, Marking, Scribe, nc_text
from uncus.deliver.nc_proof import differs
from uncus.deliver.nc_scribes import scribes_of
from uncus.deliver.viewer import page, page_file, sheets_aside
from uncus.draw.entry import Entry
from uncus.draw.register import register
from uncus.draw.sheet import Sheet
from uncus.job.billing import ListTemplate
from uncus.job.errors import JobError
from uncus.job.records import Hold
from uncus.mark.lines import PartLine
from uncus.standin.bench import BenchError, read
from uncus.steel.describe import forming_words
from uncus.steel.flat import as_plate
from uncus.steel.part import Part
from uncus.steel.wrapping import is_wrapped

Work = Callable[[], Sequence[File]]


class Output(msgspec.Struct, frozen=True):
    """One kind of output, written of each entry of the register (its name, kind and sheets: in any process), of each
    part (as work that any process can do), of the whole, or of what came of the others, with the register and what
    was put aside (`ASIDE`); `steps` counts how far the whole is. What cannot be written raises JobError, and the rest
    goes on."""

    name: str
    words: str
    of_sheets: Callable[[str, str, Sequence[Sheet]], Iterable[File]] | None = None
    of_part: Callable[[Making, PartLine], Work | None] | None = None
    of_all: Callable[[Making], Iterable[File]] | None = None
    of_done: Callable[[Making, Sequence[Entry], Sequence[File]], Iterable[File]] | None = None
    steps: Callable[[Making], int] = lambda _: 0
    asked: bool = False  # written only where it is asked for by name


# -- sheets -------------------------------------------------------------------------------------------
def _pdf(name: str, kind: str, sheets: Sequence[Sheet]) -> Iterator[File]:
    from uncus.deliver.pdf import pdf_bytes  # these writers import for a third of a second each

    yield File(f"sheets/{kind}", name, ".pdf", f"{kind} sheet", _mark(name, kind), pdf_bytes(*sheets))


def _dxf(name: str, kind: str, sheets: Sequence[Sheet]) -> Iterator[File]:
    from uncus.deliver.dxf import dxf_bytes

    for sheet in sheets:
        yield File(f"dxf/{kind}", sheet.name, ".dxf", f"{kind} dxf", _mark(name, kind), dxf_bytes(sheet))


def _mark(name: str, kind: str) -> str:
    return name if kind != "erection" else ""


# -- parts --------------------------------------------------------------------------------------------
def _nc(making: Making, line: PartLine) -> Work | None:
    """A part's NC, proved on the bench before it is kept."""
    project, options, part = making.job.project, making.job.nc, line.first.part
    if part.item is not None or part.form is Form.ROUND or part.is_grating:
        return None  # bought as it is; or sawn by the list and threaded by its sheet, as the format knows no threads
    texts = (project.name, *forming_words(part, project.units))
    head = Heading(project.number or "-", line.mark, line.mark, len(line.pieces), texts=texts)
    marking = Marking(options.stamps, "KO" if options.layout == "punch" else "PU", _scribes(making, line))
    return partial(_nc_proved, line.mark, part, head, marking)


def _nc_proved(mark: str, part: Part, head: Heading, marking: Marking) -> list[File]:
    try:
        text = nc_text(part, head, marking)
        wrong = differs(part, read(text))
    except JobError as error:
        wrong = str(error)
    except BenchError as error:
        wrong = f"the bench cannot work it, {error}"
    if wrong:
        raise JobError(f"NC of {mark} was not written: {wrong}.")
    return [File("nc", mark, ".nc1", "nc", mark, text.encode("ascii"))]


def _flat(making: Making, line: PartLine) -> Work | None:
    """A plate laid flat; of a tube with saddles the pattern to wrap round it."""
    part = line.first.part
    if part.item is None and (as_plate(part).is_plate or is_wrapped(part)):
        return partial(_laid_flat, line.mark, part, _scribes(making, line))
    return None


def _laid_flat(mark: str, part: Part, scribes: Sequence[Scribe]) -> list[File]:
    from uncus.deliver.flat_dxf import flat_dxf

    return [File("flat", mark, ".dxf", "flat", mark, flat_dxf(part, scribes))]


def _scribes(making: Making, line: PartLine) -> list[Scribe]:
    if making.job.nc.layout == "none":
        return []
    return scribes_of(line.pieces, making.within, making.marks.of_part)


# -- the whole ----------------------------------------------------------------------------------------
def _ifc(making: Making, schema: str = IFC4) -> Iterator[File]:
    paper = paper_of(register(making.job, making.shop, making.wanted))
    model = ifc_text(making.job, making.shop, making.marks, making.wanted, lambda: making.step("IFC"), schema, paper)
    project = making.job.project
    yield File("", project.number or project.name, ".ifc", "ifc", "", model.encode("ascii"))


def _tables(making: Making) -> tuple[list[Table], list[str]]:
    """The lists that go, and what is wrong with those that cannot be made."""
    of = Billing(making.job, making.shop, making.marks, making.wanted)
    own = making.job.all(ListTemplate)
    if making.lists:
        found, wrong = some_lists([template_named(own, name) for name in making.lists], of)
        tables = found
    else:
        found, wrong = some_lists(own, of)
        tables = [*all_lists(of), *found]
    held = held_list(making.job.all(Hold), making.shop, making.marks)
    return [*tables, *([held] if held.rows else [])], wrong


def _bills(making: Making) -> Iterator[File]:
    from uncus.deliver.tables import csv_bytes, xlsx_bytes

    units, project = making.job.project.units, making.job.project
    tables, wrong = _tables(making)
    for table in tables:
        yield File("bills", table.name, ".csv", "bill", "", csv_bytes(table, units))
    heading = f"{project.name} {project.number}".strip()
    yield File("bills", "bills", ".xlsx", "bill", "", xlsx_bytes(tables, units, heading))
    pieces = pieces_of(making.job, making.shop, making.marks, making.wanted)
    yield File("bills", PIECES.removesuffix(".json"), ".json", "pieces", "", pieces_bytes(pieces))
    if wrong:
        raise JobError(" ".join(wrong))


def _pieces(making: Making) -> int:
    return sum(len(line.assemblies) for line in making.lines)


def _page(making: Making, entries: Sequence[Entry], aside: Sequence[File]) -> Iterator[File]:
    tables, _ = _tables(making)
    yield page_file(page(making, entries, [f for f in aside if f.ending == ".svg"], tables))


OUTPUTS: tuple[Output, ...] = (
    Output("sheets", "Sheets (PDF)", of_sheets=_pdf),
    Output("nc", "NC files", of_part=_nc),
    Output("flat", "Plates laid flat (DXF)", of_part=_flat),
    Output("dxf", "Sheets (DXF)", of_sheets=_dxf),
    Output("ifc", "Model (IFC)", of_all=_ifc, steps=_pieces),
    Output("ifc2x3", "Model (IFC 2x3)", of_all=partial(_ifc, schema=IFC2X3), steps=_pieces, asked=True),
    Output("bills", "Bills (CSV, XLSX)", of_all=_bills),
    Output("page", "Viewer (one HTML page)", of_sheets=sheets_aside, of_done=_page, asked=True),
    Output("material", "Material file (CSV)", of_all=material, asked=True),
)
BY_NAME = {output.name: output for output in OUTPUTS}


def chosen(names: Iterable[str]) -> tuple[Output, ...]:
    """The outputs of some names, all the usual ones where there are none. Raises JobError for one there is not."""
    wanted = tuple(names) or tuple(o.name for o in OUTPUTS if not o.asked)
    for name in wanted:
        if name not in BY_NAME:
            raise JobError(f"There is no output “{name}”; choose from {', '.join(BY_NAME)}.")
    return tuple(output for output in OUTPUTS if output.name in wanted)
