"""Finds the faces that a recipe from another picture treats, in this one."""

from __future__ import annotations

from wamplex.core.analysis.report.condition import measure_whole_condition
from wamplex.core.analysis.suggestion.rules import protected_faces
from wamplex.core.base.progress import Progress
from wamplex.core.finish.initial_masks import face_ellipses
from wamplex.core.model.finish_values import FaceTreatment
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.trial.registry import find_upscaler


def locate_faces(recipe: Recipe, picture: Picture, progress: Progress) -> tuple[Recipe, tuple[str, ...]]:
    """The recipe with the positions of this picture's faces, wherever it has none yet.

    Parameters
    ----------
    recipe : its faces part says how faces are treated; its values, which places are protected
    picture : developed
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    The recipe, and a sentence on the faces that were detected.

    Raises
    ------
    Cancelled : when ``progress`` is cancelled
    """
    treats = recipe.faces is not None and not recipe.faces.ellipses
    protects = "protected" in find_upscaler(recipe.upscaler).values and not recipe.values.protected
    if not treats and not protects:
        return recipe, ()
    condition = measure_whole_condition(picture, progress, ("faces",))
    if protects:
        values = recipe.values.replace(protected=protected_faces(condition))
        recipe = recipe.replace(base=recipe.base.replace(values=values))
    if recipe.faces is None or not treats:
        return recipe, ()
    ellipses = face_ellipses(condition.faces, picture.width, picture.height)
    faces = recipe.faces.replace(ellipses=ellipses)
    return recipe.replace(faces=faces if ellipses else None), (describe_faces(faces),)


def describe_faces(faces: FaceTreatment) -> str:
    """How many of the detected faces are treated, in a sentence.

    Parameters
    ----------
    faces : detected faces

    Returns
    -------
    The sentence.
    """
    if not faces.ellipses or faces.source_trial is None:
        return "no face was found, so no face is treated"
    count, treated = len(faces.ellipses), sum(face.on for face in faces.ellipses)
    text = f"{treated} of {count} faces are made with {find_upscaler(faces.source_trial.upscaler).name}"
    if treated < count:
        text += "; the others are narrower than 16 px, or only one of the two detectors found them"
    return text
