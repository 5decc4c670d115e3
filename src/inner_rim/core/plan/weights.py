"""Weights: what comes out of the wheel and what goes in (docs/models.md 2.13)."""

import math

import msgspec

from inner_rim.core.models.rim import Bed
from inner_rim.core.models.sealant import SealantPick
from inner_rim.core.models.tape import TapePick
from inner_rim.core.models.tire import MountedTire, inner_surface_mm2
from inner_rim.core.procedure.setup import Setup
from inner_rim.core.record.job import Rim, Wheel
from inner_rim.core.record.practice import ELECTRICAL_THICK_MM
from inner_rim.core.record.why import Message, Why
from inner_rim.words import N_

TAPE_G_PER_CM3 = 1.3
VALVE_G = 6.0
SEALANT_G_PER_ML = 1.0
#: Estimate of the tube that comes out, stretched to the tire (from memory): wall and density.
TUBE_WALL_MM = 0.7
RUBBER_G_PER_CM3 = 1.1
STRIP_MM = 0.5
STRIP_SHARE_OF_WIDTH = 0.8
MM3_PER_CM3 = 1000.0


class Weights(msgspec.Struct, frozen=True):
    """Grams in and out of one wheel.

    Attributes:
        added_g: tape, valve, sealant and insert.
        removed_g: tube and rim strip, estimated.
        parts_g: each part by name, what comes out negative.
    """

    added_g: float
    removed_g: float
    parts_g: dict[str, float]
    why: Why


def tape_g(length_mm: float, width_mm: float, thickness_mm: float) -> float:
    """Return the tape's mass: length * width * thickness * 1.3 g/cm3.

    >>> round(tape_g(2176.0, 27.0, 0.1), 1)
    7.6

    Source: density from memory.
    """
    return length_mm * width_mm * thickness_mm * TAPE_G_PER_CM3 / MM3_PER_CM3


def tube_g(tire: MountedTire, rim: Rim) -> float:
    """Return an estimate of the tube that comes out: the casing's inner surface times a stretched
    wall.

    Source: wall of 0.7 mm and 1.1 g/cm3 from memory.
    """
    inner = max(0.5, 0.5 * tire.mounted_width_mm - tire.casing_mm)
    surface = inner_surface_mm2(rim.bead_seat_diameter_mm, inner, tire.center_mm)
    return surface * TUBE_WALL_MM * RUBBER_G_PER_CM3 / MM3_PER_CM3


def strip_g(rim: Rim) -> float:
    """Return an estimate of the rim strip that comes out.

    Source: 0.5 mm thick, 0.8 of the width, from memory.
    """
    length = math.pi * rim.bead_seat_diameter_mm
    width = STRIP_SHARE_OF_WIDTH * rim.internal_width_mm
    return length * width * STRIP_MM * RUBBER_G_PER_CM3 / MM3_PER_CM3


def weigh(
    wheel: Wheel, setup: Setup, bed: Bed, tire: MountedTire, tape: TapePick, sealant: SealantPick
) -> Weights:
    """Return what the work adds and takes: only what goes in or comes out in this kind of work."""
    width = tape.trim_to_mm or tape.width_mm or 0.0
    added = {}
    if setup.lays_tape:
        added["tape"] = tape_g(tape.length_mm, width, tape.thickness_mm)
        if tape.overlay is not None:
            over, thick = tape.overlay, tape.thickness_mm - ELECTRICAL_THICK_MM
            strips = tape_g(over.strips * over.length_mm, over.width_mm, ELECTRICAL_THICK_MM)
            added["tape"] = tape_g(tape.length_mm, width, thick) + strips
    if setup.tire_goes_on and not setup.keeps_valve:
        added["valve"] = VALVE_G
    if setup.takes_sealant:
        added["sealant"] = SEALANT_G_PER_ML * sealant.dose_ml
    else:
        added["tube"] = tube_g(tire, wheel.rim)
    if setup.tire_goes_on and not setup.keeps_insert and wheel.insert is not None:
        added["insert"] = wheel.insert.mass_g or 0.0
    removed = {}
    if not setup.tubeless:
        removed["tube"] = tube_g(tire, wheel.rim)
        # there the strip goes back under the tape
        if not setup.sealed and wheel.rim.bed != "large_holes":
            removed["rim strip"] = strip_g(wheel.rim)
    into, out = sum(added.values()), sum(removed.values())
    parts = {**added, **{name: -mass for name, mass in removed.items()}}
    return Weights(
        added_g=into,
        removed_g=out,
        parts_g=parts,
        why=Why(
            formula=N_(
                "in: tape volume × 1.3 g/cm³, valve 6 g, sealant 1 g/ml, insert; out: tube and strip, estimated from the tire's inner surface"
            ),
            figures={f"{name.replace(' ', '_')}_g": mass for name, mass in parts.items()},
            source=N_("densities and the tube's wall from memory"),
            others=(Message("weigh the old tube and strip: a weighed figure is better"),),
            what_changes_it=N_("the dose, the insert, a lighter tape"),
        ),
    )
