"""What the maker likes to have their own way."""

from __future__ import annotations

from collections import Counter
from typing import Annotated, Literal

from fastapi import APIRouter
from pydantic import ConfigDict, Field, model_validator

from noble_clay.core.fields import Flag, IsNumber, Model, Storable
from noble_clay.core.measure.contact import SINK_MM
from noble_clay.core.piece.models import Colour
from noble_clay.core.printing.profiles import FILAMENTS, PRINTERS, Filament, Printer
from noble_clay.store.preferences import keep_preferences, load_preferences
from noble_clay.web.state import AWorkshop

router = APIRouter(prefix="/api/preferences", tags=["preferences"])
MOST_GLAZES = 24
Step = Annotated[float, Field(ge=0.01, le=100), IsNumber]
CommandName = Annotated[str, Field(pattern=r"^[a-z-]{1,40}$")]
Favourite = Annotated[str, Field(pattern=r"^(primitive|preset|kept) [a-z0-9_-]{1,40}$")]
Chord = Annotated[str, Field(max_length=40), Storable]


class Preferences(Model):
    """shortcuts: key chords of commands whose own are changed, "" for none. Steps in mm and degrees. glazes: how the
    view shows where parts run together. contact_shade: where creases are drawn darker ("quick": where a graphics card
    draws). own_glazes: the maker's palette beside the named glazes. favourites: what the
    tray shows first, each a kind and a name. printers, filaments: what pieces are printed with.
    """

    model_config = ConfigDict(defer_build=False)

    shortcuts: dict[CommandName, Chord] = Field(default_factory=dict)
    grid_mm: Step = 1.0
    turn_deg: Annotated[float, Field(ge=0.1, le=180), IsNumber] = 15.0
    sink_mm: Step = SINK_MM
    snapping: Flag = True
    glazes: Literal["line", "mixed"] = "line"
    contact_shade: Literal["quick", "always", "never"] = "quick"
    own_glazes: Annotated[tuple[Colour, ...], Field(max_length=MOST_GLAZES)] = ()
    favourites: Annotated[tuple[Favourite, ...], Field(max_length=200)] = ()
    printers: Annotated[tuple[Printer, ...], Field(min_length=1, max_length=40)] = PRINTERS
    filaments: Annotated[tuple[Filament, ...], Field(min_length=1, max_length=40)] = FILAMENTS

    @model_validator(mode="after")
    def _each_chord_once(self) -> Preferences:
        used = Counter(chord for chord in self.shortcuts.values() if chord)
        doubled = [chord for chord, count in used.items() if count > 1]
        if doubled:
            raise ValueError(f"shortcuts give {doubled[0]} to two commands")
        return self

    @model_validator(mode="after")
    def _each_profile_once(self) -> Preferences:
        for word, profiles in (("printers", self.printers), ("filaments", self.filaments)):
            names = Counter(p.name.lower() for p in profiles)
            if doubled := [p.name for p in profiles if names[p.name.lower()] > 1]:
                raise ValueError(f"{word} has {doubled[0]} twice")
        return self


@router.get("")
def get_preferences(shop: AWorkshop) -> Preferences:
    with shop.transaction() as session:
        return Preferences.model_validate(load_preferences(session))


@router.put("")
def put_preferences(shop: AWorkshop, preferences: Preferences) -> Preferences:
    """Keep all preferences."""
    with shop.transaction() as session:
        keep_preferences(session, preferences.model_dump(mode="json", exclude_defaults=True))
    return preferences
