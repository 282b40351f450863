"""The rules of the house that imports can break."""

from __future__ import annotations

import ast
import subprocess
import sys
from pathlib import Path

from tests.parsed_source import all_nodes, parsed

SOURCE = Path(__file__).parents[1] / "src" / "wamplex"


def imports(path: Path) -> set[str]:
    """Full names of the modules a file imports."""
    found: set[str] = set()
    for node in all_nodes(path):
        if isinstance(node, ast.Import):
            found |= {name.name for name in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            found.add(node.module)
    return found


def test_core_knows_no_qt_and_no_app() -> None:
    for path in (SOURCE / "core").rglob("*.py"):
        bad = {m for m in imports(path) if m.startswith(("PySide6", "wamplex.app"))}
        assert not bad, f"{path.name} imports {bad}"


def test_working_without_a_window_loads_no_qt() -> None:
    code = "import sys, wamplex.cli; print(any(m.startswith('PySide6') for m in sys.modules))"
    out = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert out.stdout.strip() == "False"


# Functions that read, make or measure pixels, or write files: work for workers.
HEAVY = {
    "wamplex.core.render.render": {"render", "render_sheet"},
    "wamplex.core.render.plan": {"plan"},
    "wamplex.core.preview.result_preview": {"preview", "trace_preview", "difference_preview"},
    "wamplex.core.trial.framed_picture": {
        "frame_picture",
        "frame_part",
        "frame_small",
        "frame_view",
        "frame_thumbnail",
    },
    "wamplex.core.preview.sheet_preview": {"sheet_preview"},
    "wamplex.core.intake.read": {"read_picture", "read_small"},
    "wamplex.core.analysis.report.condition": {"measure_whole_condition", "measure_condition"},
    "wamplex.core.upscale.networks.sessions": {"load_session"},
    "wamplex.core.deliver.deliver": {"deliver"},
}


def functions_used() -> dict[tuple[str, str], set[tuple[str, str]]]:
    """For each function of the program, the functions that its body names, in whatever module."""
    known: dict[tuple[str, str], set[tuple[str, str]]] = {}
    for path in SOURCE.rglob("*.py"):
        module = ".".join(("wamplex", *path.relative_to(SOURCE).with_suffix("").parts))
        tree = parsed(path)
        names = {
            alias.asname or alias.name: (node.module or "", alias.name)
            for node in ast.walk(tree)
            if isinstance(node, ast.ImportFrom)
            for alias in node.names
        }
        names |= {n.name: (module, n.name) for n in tree.body if isinstance(n, ast.FunctionDef)}
        for node in tree.body:
            inside = [node] if isinstance(node, ast.FunctionDef) else getattr(node, "body", [])
            for function in (n for n in inside if isinstance(n, ast.FunctionDef)):
                used = {n.id for n in ast.walk(function) if isinstance(n, ast.Name)}
                key = (module, node.name if node is function else f"{node.name}.{function.name}")  # type: ignore[attr-defined]
                known[key] = {names[name] for name in used if name in names}
    return known


def test_views_and_models_do_no_work_not_even_through_a_helper() -> None:
    used = functions_used()
    gone = {(module, name) for module, names in HEAVY.items() for name in names if (module, name) not in used}
    assert not gone
    ours = [key for key in used if key[0].startswith("wamplex.app") and ".workers." not in key[0]]
    assert len(ours) > 300
    for start in ours:
        seen, waiting = set(), [start]
        while waiting:
            one = waiting.pop()
            if one not in seen:
                seen.add(one)
                waiting += used.get(one, ())
        heavy = {(module, name) for module, name in seen if name in HEAVY.get(module, ())}
        assert not heavy, f"{'.'.join(start)} uses {heavy}"


def test_no_generator_ends_a_pool_of_threads() -> None:
    # One that is left before its end is collected in any thread, in the middle of anything: to wait for other
    # threads there can stop the program for good.
    for path in SOURCE.rglob("*.py"):
        for function in all_nodes(path):
            if not isinstance(function, ast.FunctionDef):
                continue
            if "contextmanager" in [ast.unparse(decorator) for decorator in function.decorator_list]:
                continue
            yields = any(isinstance(node, ast.Yield | ast.YieldFrom) for node in ast.walk(function))
            pools = [
                ast.unparse(item.context_expr)
                for node in ast.walk(function)
                if isinstance(node, ast.With)
                for item in node.items
                if "ThreadPoolExecutor" in ast.unparse(item.context_expr)
            ]
            assert not (yields and pools), f"{path.name}: {function.name} yields inside {pools}"


def test_scipy_is_loaded_in_one_place_by_one_thread_at_a_time() -> None:
    for path in SOURCE.rglob("*.py"):
        assert not {m for m in imports(path) if m.split(".")[0] == "scipy"}, path.name
    code = (
        "import threading; from wamplex.core.base.lazy_imports import cv2, fft, ndimage\n"
        "uses = (lambda: ndimage.gaussian_filter, lambda: fft.dctn, lambda: cv2.merge) * 2\n"
        "done, start = [], threading.Barrier(len(uses))\n"
        "threads = [threading.Thread(target=lambda u=u: (start.wait(), done.append(u()))) for u in uses]\n"
        "[t.start() for t in threads]; [t.join() for t in threads]; print(len(done))"
    )
    out = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert out.stdout.strip() == "6", out.stderr


def test_onnx_runtime_is_loaded_in_one_place() -> None:
    loading = {p.name for p in SOURCE.rglob("*.py") if "onnxruntime" in {m.split(".")[0] for m in imports(p)}}
    assert loading == {"onnx_runtime.py"}


def test_nothing_imports_the_training_tools() -> None:
    for path in SOURCE.rglob("*.py"):
        assert not {m for m in imports(path) if m.split(".")[0] in ("training", "torch", "tools")}, path.name


def test_files_stay_short() -> None:
    for path in SOURCE.rglob("*.py"):
        assert len(path.read_text().splitlines()) <= 500, path.name


def test_the_qt_binding_counts_references_right() -> None:
    """Some releases lose a reference with every call, and the application aborts after some minutes."""
    from PySide6.QtCore import QObject

    thing = QObject()
    before = sys.getrefcount(None)
    for _ in range(1000):
        thing.setObjectName("x")
        thing.blockSignals(False)
    assert abs(sys.getrefcount(None) - before) < 500


def test_no_file_is_too_large_for_a_plain_clone() -> None:
    """Larger ones may arrive as a pointer to what they should hold."""
    for path in (SOURCE / "models").iterdir():
        assert path.stat().st_size < 4_000_000, path.name
        assert not path.read_bytes().startswith(b"version https://"), path.name


# Where a file may be opened by a path, and whose file that is.
OPENING = {
    "core/base/regular_files.py": "files that the user named",
    "core/base/atomic_files.py": "new files",
    "core/model/opened_source.py": "the copy of a source",
    "core/raw/libraw.py": "the copy of a source, or a file of our own",
    "core/raw/exif_block.py": "a preview in memory",
    "core/raw/dng_tags.py": "the copy of a source",
    "core/intake/raw_signature.py": "the copy of a source",
    "core/intake/read.py": "the copy of a source",
    "core/intake/thumbnail_cache.py": "the desktop's thumbnails",
    "core/guests/guest_stage.py": "pixels that we stored",
    "core/guests/guest_store.py": "pixels that we store",
    "core/deliver/deliver.py": "the new print file",
    "core/workflow/recipe_transfer/recipe_store.py": "recipes that we stored",
    "core/workflow/recipe_transfer/similar_shots.py": "the copy of a source",
    "core/workflow/hand_over.py": "the file that is replaced",
    "core/workflow/folder_watch/folder_watch.py": "a folder, to lock it",
    "core/workflow/decoding/decoding_worker.py": "the copy of a source, and memory for the result",
    "app/startup/single_window.py": "a lock beside our own socket",
    "core/provenance/recipe_reader.py": "a descriptor of regular_files",
}
OPENING_FOLDERS = (
    "core/intake/decoders/",
    "core/deliver/metadata/",
    "core/deliver/writers/",
    "core/deliver/verification/",
)
OPENERS = {
    "imread",
    "memmap",
    "TiffFile",
    "new_from_file",
    "thumbnail",
    "open_heif",
    "open_file",
    "NetpbmFile",
    "copy2",
}


def opens_a_path(call: ast.Call) -> bool:
    """Whether a call opens a file by its path."""
    function = call.func
    if isinstance(function, ast.Name):
        return function.id == "open"
    if not isinstance(function, ast.Attribute):
        return False
    owner = function.value.id if isinstance(function.value, ast.Name) else ""
    modes = [a.value for a in call.args if isinstance(a, ast.Constant)]
    if function.attr == "open":
        return owner in ("os", "io", "Image") or any(mode in ("rb", "r", "r+b", "wb") for mode in modes)
    return function.attr in OPENERS or (owner, function.attr) == ("np", "load")


def test_files_of_users_are_opened_in_one_place() -> None:
    for path in SOURCE.rglob("*.py"):
        name = str(path.relative_to(SOURCE))
        calls = [n for n in all_nodes(path) if isinstance(n, ast.Call) and opens_a_path(n)]
        if name not in OPENING and not name.startswith(OPENING_FOLDERS):
            assert not calls, f"{name}:{calls[0].lineno}"
    assert set(OPENING) <= {str(path.relative_to(SOURCE)) for path in SOURCE.rglob("*.py")}
