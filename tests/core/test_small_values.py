"""Windows, progress, recipes, names and limits."""

from __future__ import annotations

import os
import threading
import time
from pathlib import Path

import numpy as np
import pytest

from wamplex.core.base.errors import Cancelled, RecipeError, SizeError
from wamplex.core.base.parallel_rows import run_parallel_rows
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.deliver.request.naming import file_name, free_path, move_into_place, planned_path
from wamplex.core.deliver.request.size_limits import check_disk, expected_bytes, uncompressed_bytes
from wamplex.core.geometry.framing import Framing
from wamplex.core.geometry.size import Size
from wamplex.core.geometry.size_text import byte_size_text, distance_text
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.model.upscale_values import Values
from wamplex.core.trial.registry import find_upscaler
from wamplex.core.upscale.upscalers.vellum import VELLUM


class TestWindow:
    @pytest.mark.parametrize("tile", [(1, 1), (7, 5), (100, 3), (13, 100)])
    def test_tiles_cover_every_pixel_once(self, tile: tuple[int, int]) -> None:
        seen = np.zeros((40, 60), int)
        for part in Window(9, 4, 37, 22).tiles(*tile):
            seen[part.y : part.bottom, part.x : part.right] += 1
        assert (seen[4:26, 9:46] == 1).all()
        assert seen.sum() == 37 * 22

    def test_growing_stops_at_the_border(self) -> None:
        assert Window(2, 3, 10, 10).grown(5, 14, 30) == Window(0, 0, 14, 18)

    def test_clipping_outside_leaves_nothing(self) -> None:
        assert Window(50, 50, 10, 10).clipped(40, 40).empty
        assert Window(-5, -5, 10, 10).clipped(40, 40) == Window(0, 0, 5, 5)


class TestProgress:
    def test_reports_reach_the_listener(self) -> None:
        heard: list[tuple[float, str]] = []
        Progress(lambda f, w: heard.append((f, w))).report(0.5, "half")
        assert heard == [(0.5, "half")]

    def test_cancelling_raises_at_the_next_check(self) -> None:
        progress = Progress()
        progress.check()
        progress.cancel()
        with pytest.raises(Cancelled):
            progress.check()

    def test_cancelling_interrupts_what_registered(self) -> None:
        progress, called = Progress(), threading.Event()
        with progress.interruptible(called.set):
            progress.cancel()
        assert called.is_set()

    def test_interrupts_end_with_their_block(self) -> None:
        progress, called = Progress(), threading.Event()
        with progress.interruptible(called.set):
            pass
        progress.cancel()
        assert not called.is_set()

    def test_pausing_holds_and_cancelling_frees(self) -> None:
        progress = Progress()
        progress.pause(True)
        begun = time.monotonic()
        threading.Timer(0.1, progress.cancel).start()
        with pytest.raises(Cancelled):
            progress.check()
        assert time.monotonic() - begun >= 0.09

    def test_going_on_after_a_pause(self) -> None:
        progress = Progress()
        progress.pause(True)
        threading.Timer(0.05, lambda: progress.pause(False)).start()
        progress.check()


class TestRecipe:
    def test_json_round_trip(self) -> None:
        recipe = Recipe(base=TrialSpec(upscaler="mitchell"), factor=2.7)
        assert Recipe.from_json(recipe.model_dump_json()) == recipe

    def test_recipes_of_the_first_version_are_read(self) -> None:
        old = """{"version": 1, "upscaler": "mender", "factor": 3.0, "values": {"noise": 12.0}, "framing":
            {"turns": 1}, "density_ppi": 240.0, "sheet": null, "delivery": {"format": "jpeg"}}"""
        base = TrialSpec(upscaler="mender", values=Values(noise=12))
        now = Recipe(base=base, factor=3, framing=Framing(turns=1), density_ppi=240)
        assert Recipe.from_json(old) == now

    @pytest.mark.parametrize(
        ("text", "word"),
        [
            ('{"version": 4}', "version"),
            ('{"factor": 9}', "factor"),
            ('{"magic": true}', "magic"),
            ('{"base": {"values": {"noise": -1}}}', "base.values.noise"),
            ("not json", "not JSON"),
            ("[1]", "no fields"),
        ],
    )
    def test_what_cannot_be_used_is_named(self, text: str, word: str) -> None:
        with pytest.raises(RecipeError, match=word):
            Recipe.from_json(text)

    def test_recipes_cannot_be_changed(self) -> None:
        with pytest.raises(ValueError, match="frozen"):
            Recipe().factor = 3.0

    def test_unknown_upscalers_list_the_known(self) -> None:
        with pytest.raises(RecipeError, match="nearest, bilinear"):
            find_upscaler("sorcery")


class TestChainWords:
    @pytest.mark.parametrize(
        ("factor", "words"),
        [
            (4.0, "one pass of 4×"),
            (2.5, "one pass of 3×, then shrunk to 2.5×"),
            (6.0, "3× then 2×"),
            (7.0, "4× then 2×, then shrunk to 7×"),
            (0.5, "shrunk with Lanczos 3: nothing to enlarge"),
        ],
    )
    def test_vellum_says_what_it_does(self, factor: float, words: str) -> None:
        assert VELLUM.steps(factor) == words


class TestNames:
    SIZE = Size(400, 300, 2.5, 300)

    @pytest.mark.parametrize(
        ("pattern", "name"),
        [
            ("{name}-{factor}x", "my stage-2.5x.tif"),
            ("{name}_{upscaler}_{width}x{height}", "my stage_lanczos_1000x750.tif"),
            ("print at {ppi}", "print at 300.tif"),
        ],
    )
    def test_fields_are_filled(self, pattern: str, name: str) -> None:
        recipe = Recipe(base=TrialSpec(upscaler="lanczos"), factor=2.5)
        delivery = Delivery(name_pattern=pattern)
        assert file_name(Path("/pictures/my stage.jpeg"), recipe, delivery, self.SIZE) == name

    def test_the_folder_is_that_of_the_source_unless_chosen(self) -> None:
        source = Path("/pictures/stage.jpg")
        assert planned_path(source, Recipe(), Delivery(), self.SIZE).parent == Path("/pictures")
        chosen = Delivery(folder=Path("/prints"))
        assert planned_path(source, Recipe(), chosen, self.SIZE).parent == Path("/prints")

    def test_broken_links_count_as_taken(self, tmp_path: Path) -> None:
        (tmp_path / "a.tif").symlink_to(tmp_path / "nowhere")
        assert free_path(tmp_path / "a.tif").name == "a-2.tif"

    @pytest.mark.parametrize("links_work", [True, False])
    def test_two_finishing_at_once_get_two_names(
        self, tmp_path: Path, links_work: bool, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        def refuse(*_args: object) -> None:
            raise PermissionError(1, "links are not possible here")

        if not links_work:
            monkeypatch.setattr(os, "link", refuse)
        for content in ("first", "second"):
            (tmp_path / "part").write_text(content)
            move_into_place(tmp_path / "part", tmp_path / "a.tif")
        assert (tmp_path / "a.tif").read_text() == "first"
        assert (tmp_path / "a-2.tif").read_text() == "second"
        assert len(list(tmp_path.iterdir())) == 2


class TestLimits:
    def test_uncompressed_size_is_pixels_times_channels_times_bytes(self) -> None:
        size = Size(2000, 1500, 4.0)
        assert uncompressed_bytes(size, Delivery(depth=16), 3) == 8000 * 6000 * 3 * 2
        assert uncompressed_bytes(size, Delivery(depth=8), 4) == 8000 * 6000 * 4

    def test_better_jpegs_are_expected_larger(self) -> None:
        size = Size(2000, 1500, 4.0)
        sizes = [expected_bytes(size, Delivery(format="jpeg", quality=q), 3) for q in (30, 60, 80, 92, 100)]
        assert sizes == sorted(sizes)
        assert sizes[0] > 0.02e6 * 48
        assert sizes[-1] < 1e6 * 48

    def test_a_full_disk_is_noticed_before_any_work(self, tmp_path: Path) -> None:
        with pytest.raises(SizeError, match="free"):
            check_disk(tmp_path, Size(2_000_000, 2_000_000, 8.0), Delivery(), 4)


@pytest.mark.parametrize(
    ("count", "words"),
    [(0, "0 B"), (999, "999 B"), (31_000, "31 kB"), (25_900_000, "25.9 MB"), (5.2e9, "5.2 GB")],
)
def test_file_sizes_in_words(count: float, words: str) -> None:
    assert byte_size_text(count) == words


def test_distances_in_words() -> None:
    assert [distance_text(mm) for mm in (291, 994, 1000, 3040)] == ["29 cm", "99 cm", "1.0 m", "3.0 m"]


@pytest.mark.parametrize(("rows", "row_bytes"), [(1, 10), (7, 4_000_000), (1, 50_000_000), (1001, 100_000)])
def test_rows_are_each_worked_on_once(rows: int, row_bytes: int) -> None:
    seen = np.zeros(rows, int)

    def count(some: slice) -> None:
        seen[some] += 1

    run_parallel_rows(rows, row_bytes, count)
    assert (seen == 1).all()
