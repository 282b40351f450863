"""The decisions that a new picture starts with."""

from __future__ import annotations

from wamplex.app.tray.decisions import Decisions
from wamplex.core.base.errors import SizeError
from wamplex.core.geometry.paper import paper_named
from wamplex.core.geometry.sheet import Sheet
from wamplex.core.intake.probe import Probe
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.settings import load_settings
from wamplex.core.workflow.recipe_transfer.transfer import fit_recipe_size


def first_decisions(header: Probe) -> Decisions:
    """The paper and the density of the preferences; the usual size where they do not fit the picture."""
    settings = load_settings()
    paper = paper_named(settings.first_paper, settings.custom_papers)
    sheet = None
    if paper is not None:
        sheet = Sheet(name=paper.text, width_mm=paper.short_mm, height_mm=paper.long_mm)
    size_recipe = Recipe(density_ppi=settings.first_density_ppi, sheet=sheet)
    try:
        recipe = fit_recipe_size(size_recipe, Recipe(), header)
    except SizeError:
        return Decisions()
    return Decisions(factor=recipe.factor, density_ppi=recipe.density_ppi, framing=recipe.framing, sheet=recipe.sheet)
