"""All readings, in the order they are shown."""

from __future__ import annotations

from wamplex.core.readings.edges import blur_effect, edge_softness, ringing, stair_steps
from wamplex.core.readings.faithfulness import (
    colour_drift,
    invented_detail,
    repeated_pattern,
    round_trip,
    round_trip_psnr,
    tone_drift,
)
from wamplex.core.readings.reading import Reading
from wamplex.core.readings.surfaces import block_marks, blotches, noise_colour, noise_luma, noise_wavelet

_OWN = "own definition"
READINGS: tuple[Reading, ...] = (
    Reading(
        "stair-steps", "Stair-steps", "°", "less",
        "Slanted edges and curves that climb in steps.", _OWN, 40.0, 1.5, stair_steps,
    ),
    Reading(
        "ringing", "Halos", "levels", "less",
        "Light or dark lines along edges.", _OWN, 12.0, 0.3, ringing,
    ),
    Reading(
        "softness", "Edge width", "px", "less",
        "Edges that are many pixels wide.", "Marziliano et al. 2002", 24.0, 1.0, edge_softness,
    ),
    Reading(
        "blur-effect", "Blur effect", "%", "less",
        "Overall blur.", "Crete et al. 2007", 60.0, 2.0, blur_effect,
    ),
    Reading(
        "noise", "Noise", "levels", "less",
        "Noise on even surfaces.", "Immerkaer 1996", 12.0, 0.5, noise_luma,
    ),
    Reading(
        "noise-wavelet", "Noise, wavelets", "levels", "less",
        "Noise anywhere; fine texture counts too.", "Donoho and Johnstone 1994", 12.0, 0.5, noise_wavelet,
    ),
    Reading(
        "noise-colour", "Colour noise", "levels", "less",
        "Coloured noise on even surfaces.", "Immerkaer 1996", 8.0, 0.5, noise_colour,
    ),
    Reading(
        "block-marks", "Block marks", "levels", "less",
        "A faint grid of squares, eight source pixels wide.", "after Wang, Sheikh and Bovik 2002",
        8.0, 0.3, block_marks,
    ),
    Reading(
        "blotches", "Blotches", "levels", "less",
        "Patches and steps in skies and other smooth places.", _OWN, 3.0, 0.2, blotches,
    ),
    Reading(
        "repeated-pattern", "Repeated pattern", "%", "less",
        "Dots, worms or a weave that repeat at a fixed distance.", _OWN, 12.0, 2.0, repeated_pattern,
    ),
    Reading(
        "invented-detail", "Invented detail", "%", "less",
        "Fine texture that the source cannot contain.", _OWN, 12.0, 0.5, invented_detail,
    ),
    Reading(
        "round-trip", "Round-trip difference", "ΔE", "less",
        "Whether shrinking the result gives the source back.", "Sharma et al. 2005", 6.0, 0.2, round_trip,
    ),
    Reading(
        "round-trip-psnr", "Round-trip PSNR", "dB", "more",
        "Whether shrinking the result gives the source back.", "PSNR", 12.0, 1.0, round_trip_psnr,
    ),
    Reading(
        "colour-drift", "Colour drift", "a*b*", "less",
        "A cast that the source does not have.", _OWN, 4.0, 0.3, colour_drift,
    ),
    Reading(
        "tone-drift", "Tone drift", "L*", "less",
        "Places that became lighter or darker.", _OWN, 4.0, 0.3, tone_drift,
    ),
)  # fmt: skip
