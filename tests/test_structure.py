"""The house rules that no linter holds: what loads what, doors, private rooms, names."""

from __future__ import annotations

import ast
import pkgutil
import subprocess
import sys
from pathlib import Path

import pytest

import verve.core
import verve.devices

ROOT = Path(__file__).resolve().parent.parent
SOURCE = ROOT / "src" / "verve"
FILES = sorted(SOURCE.rglob("*.py"))

_WITHOUT_QT = """
import importlib, sys
class NoQt:
    def find_spec(self, name, path=None, target=None):
        if name.split(".")[0] == "PyQt6" or name.startswith("verve.app"):
            raise ImportError(f"{name} is banned here")
sys.meta_path.insert(0, NoQt())
for name in sys.argv[1:]:
    importlib.import_module(name)
from verve.core.assess import assess
from verve.core.demo import demo_session
assert len(assess(demo_session()).lines) == 7
"""


def run_python(code: str, *arguments: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-c", code, *arguments],
        capture_output=True,
        text=True,
        check=False,
        timeout=120,
    )


def test_core_and_devices_work_where_qt_cannot_be_imported() -> None:
    packages = (verve.core, verve.devices)
    names = [
        module.name
        for package in packages
        for module in pkgutil.walk_packages(package.__path__, package.__name__ + ".")
    ]
    assert len(names) > 40
    done = run_python(_WITHOUT_QT, *names)
    assert done.returncode == 0, done.stderr


def test_nothing_heavy_is_loaded_before_the_first_paint() -> None:
    code = (
        "import sys, verve.app, verve.app.window\n"
        "from verve.core.demo import demo_session\n"
        "from verve.core.assess import assess\n"
        "assess(demo_session())\n"
        "print([n for n in ('scipy', 'soundfile', 'verve.devices') if n in sys.modules])"
    )
    done = run_python(code)
    assert done.stdout.strip() == "[]", done.stdout + done.stderr


def test_the_window_itself_is_loaded_without_anything_that_computes() -> None:
    done = run_python("import sys, verve.app.window; print('numpy' in sys.modules)")
    assert done.stdout.strip() == "False", done.stdout + done.stderr


def test_the_command_line_loads_the_window_only_when_it_opens_one() -> None:
    done = run_python(
        "import sys, verve.cli; print('PyQt6' in sys.modules, 'numpy' in sys.modules)"
    )
    assert done.stdout.strip() == "False False"


def imports_of(path: Path) -> list[tuple[str, list[str]]]:
    found = []
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, ast.ImportFrom) and node.module:
            found.append((node.module, [alias.name for alias in node.names]))
        elif isinstance(node, ast.Import):
            found += [(alias.name, []) for alias in node.names]
    return found


@pytest.mark.parametrize("path", FILES, ids=lambda p: str(p.relative_to(SOURCE)))
def test_a_package_is_entered_by_its_door(path: Path) -> None:
    own = "verve." + ".".join(path.parent.relative_to(SOURCE).parts)
    for module, _ in imports_of(path):
        parts = module.split(".")
        hidden = [i for i, part in enumerate(parts) if part.startswith("_") and part != "__init__"]
        if parts[0] == "verve" and hidden:
            assert ".".join(parts[: hidden[0]]) == own.rstrip("."), f"{path}: {module}"


@pytest.mark.parametrize(
    "path", [p for p in FILES if p.name == "__init__.py"], ids=lambda p: str(p.parent.name)
)
def test_a_door_lists_what_it_gives_in_order(path: Path) -> None:
    tree = ast.parse(path.read_text(encoding="utf-8"))
    assert ast.get_docstring(tree)
    for node in tree.body:
        if isinstance(node, ast.Assign) and getattr(node.targets[0], "id", "") == "__all__":
            names = ast.literal_eval(node.value)
            assert len(names) == len(set(names))


@pytest.mark.parametrize("path", FILES, ids=lambda p: str(p.relative_to(SOURCE)))
def test_a_file_says_what_it_is_and_is_not_too_long(path: Path) -> None:
    text = path.read_text(encoding="utf-8")
    assert ast.get_docstring(ast.parse(text)), path
    assert len(text.splitlines()) <= 600, path


@pytest.mark.parametrize("path", FILES, ids=lambda p: str(p.relative_to(SOURCE)))
def test_no_way_is_taken_that_no_reader_can_follow(path: Path) -> None:
    text = path.read_text(encoding="utf-8")
    for banned in ("importlib.import_module", "processEvents", "time.sleep(", "except:"):
        assert banned not in text, f"{path}: {banned}"


def test_folders_are_named_for_what_they_are() -> None:
    vague = {"utils", "helpers", "common", "misc", "functions"}
    names = {part for path in FILES for part in path.relative_to(SOURCE).with_suffix("").parts}
    assert vague & names == set()


def test_every_public_function_of_the_core_says_what_it_does() -> None:
    for path in sorted((SOURCE / "core").rglob("*.py")):
        for node in ast.parse(path.read_text(encoding="utf-8")).body:
            if isinstance(node, ast.FunctionDef | ast.ClassDef) and not node.name.startswith("_"):
                assert ast.get_docstring(node), f"{path}: {node.name}"


def test_tests_are_a_quarter_to_a_third_of_the_code() -> None:
    tests = sum(len(p.read_text().splitlines()) for p in (ROOT / "tests").rglob("*.py"))
    source = sum(len(p.read_text().splitlines()) for p in FILES)
    assert 0.25 <= tests / (tests + source) <= 1 / 3 + 0.005, (tests, source)
