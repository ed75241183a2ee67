"""Others' models: how fast many products are drawn in software, and what reading a large file does to the window.

PYTHONPATH=src xvfb-run -a python bench/others.py [--products 10000] [--megabytes 60] [--folder DIR]
"""

import argparse
import os
import statistics
import tempfile
import time
from pathlib import Path

from compiled import installed
from uncus.reference.step import StepFile, guid, real, refs, text


def written(path: Path, products: int, shapes: int, pad: int = 0) -> Path:
    """A made-up building of boxes and I shapes as text: `shapes` different ones, `pad` bytes of properties each."""
    file = StepFile()
    put, once = file.put, file.once
    origin = once("IFCCARTESIANPOINT((0.,0.,0.))")
    axes = once(f"IFCAXIS2PLACEMENT3D({origin},$,$)")
    unit = put("IFCSIUNIT(*,.LENGTHUNIT.,.MILLI.,.METRE.)")
    context = put(f"IFCGEOMETRICREPRESENTATIONCONTEXT($,'Model',3,1.E-05,{axes},$)")
    assigned = put(f"IFCUNITASSIGNMENT(({unit}))")
    project = put(f"IFCPROJECT('{guid('bench')}',$,'Bench',$,$,$,$,({context}),{assigned})")
    place = put(f"IFCLOCALPLACEMENT($,{axes})")
    building = put(f"IFCBUILDING('{guid('b')}',$,'B',$,$,{place},$,$,.ELEMENT.,$,$,$)")
    storey = put(f"IFCBUILDINGSTOREY('{guid('s')}',$,'S',$,$,{place},$,$,.ELEMENT.,0.)")
    put(f"IFCRELAGGREGATES('{guid('r1')}',$,$,$,{project},({building}))")
    put(f"IFCRELAGGREGATES('{guid('r2')}',$,$,$,{building},({storey}))")
    up = once("IFCDIRECTION((0.,0.,1.))")
    bodies = []
    for n in range(shapes):
        profile = put(f"IFCISHAPEPROFILEDEF(.AREA.,'I{n}',$,{real(150 + n % 90)},{real(200 + n % 300)},8.,12.,$,$,$)")
        solid = put(f"IFCEXTRUDEDAREASOLID({profile},{axes},{up},{real(2000 + n)})")
        bodies.append(put(f"IFCSHAPEREPRESENTATION({context},'Body','SweptSolid',({solid}))"))
    made = []
    for n in range(products):
        at = put(f"IFCCARTESIANPOINT(({real(n % 100 * 900)},{real(n // 100 % 100 * 900)},{real(n // 10_000 * 4000)}))")
        there = put(f"IFCAXIS2PLACEMENT3D({at},$,$)")
        own = put(f"IFCLOCALPLACEMENT({place},{there})")
        shape = put(f"IFCPRODUCTDEFINITIONSHAPE($,$,({bodies[n % shapes]}))")
        made.append(put(f"IFCCOLUMN('{guid(f'c{n}')}',$,{text(f'Column {n}')},$,$,{own},{shape},$,$)"))
        if pad:
            value = put(f"IFCPROPERTYSINGLEVALUE('note',$,IFCTEXT('{'x' * pad}'),$)")
            of = put(f"IFCPROPERTYSET('{guid(f'p{n}')}',$,'Notes',$,({value}))")
            put(f"IFCRELDEFINESBYPROPERTIES('{guid(f'd{n}')}',$,$,$,({made[-1]}),{of})")
    put(f"IFCRELCONTAINEDINSPATIALSTRUCTURE('{guid('in')}',$,$,$,{refs(made)},{storey})")
    path.write_text(file.text("IFC4", path.name, "2026-11-29T00:00:00", "ViewDefinition [ReferenceView_V1.2]"))
    return path


def main() -> None:
    options = argparse.ArgumentParser()
    options.add_argument("--products", type=int, default=10_000)
    options.add_argument("--megabytes", type=int, default=60)
    options.add_argument("--folder", type=Path)
    asked = options.parse_args()
    folder = asked.folder or Path(tempfile.mkdtemp(prefix="uncus-others-"))
    os.environ.setdefault("QT_QPA_PLATFORM", "xcb")
    from PySide6.QtTest import QTest

    from uncus.app.main import application
    from uncus.app.window import Window
    from uncus.job.job import Job
    from uncus.job.start import new_job
    from uncus.units import Units

    app = application()
    window = Window(Job.create(folder / "j.uncus", new_job("Bench", "1", Units.METRIC), replace=True))
    window.resize(1280, 800)
    window.show()
    QTest.qWait(500)
    others = window.session.others

    def lay(path: Path) -> tuple[float, list[float]]:
        """Seconds until it is there, and how long each turn of the window took meanwhile (it is drawn in each)."""
        began = time.perf_counter()
        others.lay(path)
        turns = []
        while others.busy:
            at = time.perf_counter()
            window.model.camera.orbit(2, 0, window.model.camera.target)
            window.model._start_moving()
            app.processEvents()
            turns.append((time.perf_counter() - at) * 1000)
            time.sleep(0.005)
        return time.perf_counter() - began, turns

    for shapes, words in ((400, "400 shapes"), (asked.products, "each its own shape")):
        path = written(folder / f"many {shapes}.ifc", asked.products, shapes)
        seconds, turns = lay(path)
        window.model.frame()
        QTest.qWait(800)
        frames = []
        for _ in range(60):
            at = time.perf_counter()
            window.model.camera.orbit(4, 1, window.model.camera.target)
            window.model._start_moving()
            window.model.repaint()
            app.processEvents()
            frames.append(time.perf_counter() - at)
        fps = 1 / statistics.median(frames)
        size = path.stat().st_size / 1e6
        said = f"{asked.products:,} products, {words}, {size:.1f} MB: read in {seconds:.1f} s"
        late = ", ".join(f"{t:.0f}" for t in sorted(turns)[-3:])
        print(f"{said}; {fps:.1f} frames a second (worst {1 / max(frames):.1f}); turns of the window meanwhile: "
            f"median {statistics.median(turns):.0f} ms, longest {late} ms")  # fmt: skip
        window.session.change("out", drop=[r.id for r in others.references])
        QTest.qWait(300)
    pad = 20_000
    path = written(folder / "large.ifc", asked.megabytes * 1_000_000 // pad, 400, pad)
    seconds, turns = lay(path)
    late = sorted(turns)[-3:]
    print(f"{path.stat().st_size / 1e6:.0f} MB: read in {seconds:.1f} s; the window's turns: median "
        f"{statistics.median(turns):.0f} ms, longest {', '.join(f'{t:.0f}' for t in late)} ms")  # fmt: skip
    window.close()


if __name__ == "__main__":
    installed()
    main()
