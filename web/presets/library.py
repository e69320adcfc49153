"""Presets of an account: the shipped ones, then its own."""

import uuid

from django.contrib.auth.models import User

from lighten import DEFAULT_PRESET, PRESETS, Preset, preset_named, treatment_from_json
from web.presets.models import OwnPreset, UsualPreset
from web.problems import Problem

__all__ = ["find_preset", "presets_of", "usual_preset"]


def presets_of(owner: User) -> list[Preset]:
    return [*PRESETS, *(_as_preset(own) for own in OwnPreset.objects.filter(owner=owner))]


def find_preset(owner: User, name: str) -> Preset:
    """Raises: Problem if there is none of that name."""
    try:
        return preset_named(name)
    except KeyError:
        own_id = _as_id(name)
        own = OwnPreset.objects.filter(owner=owner, pk=own_id).first() if own_id else None
    if own is None:
        raise Problem("unknown_preset", "There is no such preset any more.", status=404)
    return _as_preset(own)


def usual_preset(owner: User) -> str:
    """Return the name of the default preset of new satchels."""
    chosen = UsualPreset.objects.filter(owner=owner).first()
    return chosen.name if chosen else DEFAULT_PRESET.name


def _as_preset(own: OwnPreset) -> Preset:
    return Preset(
        name=str(own.pk),
        title=own.title,
        description=own.description,
        treatment=treatment_from_json(own.treatment),
    )


def _as_id(name: str) -> uuid.UUID | None:
    try:
        return uuid.UUID(name)
    except ValueError:
        return None
