"""What is asked of many pictures, resolved into a recipe with reasons for each."""

from __future__ import annotations

from dataclasses import dataclass, field

from wamplex.core.analysis.suggestion.suggestion import SUGGESTED
from wamplex.core.analysis.suggestion.suggestions import Suggestions
from wamplex.core.base.errors import SizeError
from wamplex.core.base.frozen_model import FrozenModel
from wamplex.core.geometry.framing import Framing
from wamplex.core.geometry.layout import Layout, lay_on_sheet, orient_sheet
from wamplex.core.geometry.sheet import Sheet
from wamplex.core.geometry.size import DEFAULT_DENSITY_PPI, LARGEST_FACTOR, LEAST_FACTOR, Size, fit_into_mm
from wamplex.core.intake.probe import Probe
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.model.upscale_values import Values
from wamplex.core.model.value_table import VALUES, ValueName, value_text
from wamplex.core.trial.registry import find_upscaler
from wamplex.core.upscale.upscalers.interface import Upscaler


class SizeIntent(FrozenModel):
    """The one way, of four, in which the size is said.

    Attributes
    ----------
    factor : enlargement
    width_px : columns of the result
    print_mm : sides of a rectangle that the print fits into
    sheet : paper of the print; it is rotated to the orientation of the picture
    density_ppi : of the print
    """

    factor: float | None = None
    width_px: int | None = None
    print_mm: tuple[float, float] | None = None
    sheet: Sheet | None = None
    density_ppi: float = DEFAULT_DENSITY_PPI

    def check(self) -> None:
        """Refuse what can be meant of no picture.

        Raises
        ------
        SizeError : with the reason
        """
        ways = (self.factor, self.width_px, self.print_mm, self.sheet)
        if sum(way is not None for way in ways) != 1:
            raise SizeError("Give the size with exactly one of --factor, --width, --print and --sheet.")
        if self.factor is not None and not LEAST_FACTOR <= self.factor <= LARGEST_FACTOR:
            raise SizeError(f"A factor of {self.factor:g} is outside {LEAST_FACTOR:g} to {LARGEST_FACTOR:g}.")
        Size(1, 1, 1.0, self.density_ppi)  # refuses an impossible density
        if self.sheet is not None:
            _ = self.sheet.area_mm


@dataclass(frozen=True)
class Intent:
    """What is wanted of pictures, whatever they are.

    Attributes
    ----------
    upscaler : key, or "suggested" for what suits each picture
    fixed : values that are the same for all; the others are measured anew for each
    """

    size: SizeIntent
    upscaler: str = SUGGESTED
    fixed: dict[ValueName, object] = field(default_factory=dict)
    framing: Framing = field(default_factory=Framing)


def resolve_layout(intent: Intent, header: Probe) -> Layout:
    """Resolve the geometry of a picture.

    Parameters
    ----------
    intent : what is asked for
    header : the picture's header

    Returns
    -------
    Framing, sheet and size, all checked against the picture.

    Raises
    ------
    SizeError : when it does not fit the picture
    """
    request = intent.size
    framing = intent.framing.checked(header.width, header.height)
    cropped = framing.size(header.width, header.height)
    if request.sheet is not None:
        sheet = orient_sheet(request.sheet, *cropped)
        return lay_on_sheet(framing, sheet, request.density_ppi, header.width, header.height)
    size = Size(*cropped, 1.0, request.density_ppi)
    if request.factor is not None:
        return Layout(framing, None, size.with_factor(request.factor))
    if request.width_px is not None:
        return Layout(framing, None, size.with_width_px(request.width_px))
    assert request.print_mm is not None
    return Layout(framing, None, fit_into_mm(size, *request.print_mm))


def resolve(intent: Intent, header: Probe, suggested: Suggestions) -> tuple[Recipe, tuple[str, ...]]:
    """The recipe of one picture, and a sentence on each thing that was chosen by itself.

    Parameters
    ----------
    intent : what is asked for
    header : the picture's header
    suggested : what the picture's measurements suggest

    Returns
    -------
    The recipe, and its reasons in words for the user.

    Raises
    ------
    SizeError : when the intent does not fit the picture
    RecipeError : when there is no such upscaler
    """
    placed = resolve_layout(intent, header)
    by_itself = intent.upscaler == SUGGESTED
    upscaler = find_upscaler(suggested.upscaler if by_itself else intent.upscaler)
    values, value_reasons = _values(intent, upscaler, suggested)
    reasons = [f"{upscaler.name} is suggested because {suggested.reason}"] if by_itself else []
    reasons += value_reasons
    framing = placed.framing
    if by_itself and framing.shrink_first == 1 < suggested.shrink_first:
        framing = framing.replace(shrink_first=suggested.shrink_first)
        by = suggested.shrink_first
        reasons.append(f"shrunk {by:g} times first: it was enlarged before by that factor")
    recipe = Recipe(
        base=TrialSpec(upscaler=upscaler.key, values=values),
        factor=placed.size.factor,
        density_ppi=placed.size.density_ppi,
        framing=framing,
        sheet=placed.sheet,
    )
    return recipe, tuple(reasons)


def _values(intent: Intent, upscaler: Upscaler, suggested: Suggestions) -> tuple[Values, list[str]]:
    """Given values, suggested values for the rest, and a line on each measured value."""
    given = {name: value for name, value in intent.fixed.items() if name in upscaler.values}
    values = suggested.values_for(upscaler.key, upscaler.values).replace(**given)
    reasons = []
    for name in upscaler.values:
        reason = suggested.reason_for(upscaler.key, upscaler.values, name)
        if reason is not None and (name in given or name != "motion_blur_px" or values.motion_blur_px > 0):
            text = value_text(name, getattr(values, name))
            reasons.append(f"{text}: {'as you chose' if name in given else reason}")
    unheeded = [name for name in intent.fixed if name not in upscaler.values]
    return values, reasons + [f"{VALUES[name].flag} is ignored: {upscaler.name} has no such value" for name in unheeded]
