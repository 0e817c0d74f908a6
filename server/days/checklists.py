"""What is checked before a run counts: one list for every test, and what each kind of test adds."""

from __future__ import annotations

from plans.models import PlanKind

BASE: tuple[tuple[str, str], ...] = (
    ("Safety", "Course closed or private land, permission at hand, local law kept"),
    ("Safety", "Driver sober, licensed, belted; nobody near the strip; runout free"),
    ("Safety", "Tires sound, wheel nuts tight, brakes cool, nothing loose in the car"),
    ("Safety", "Stability systems on, unless a professional on a closed course decides otherwise"),
    ("Car", "Drive mode and launch aid as the setup says; the change confirmed active"),
    ("Car", "Climate control and route guidance off"),
    ("Car", "Occupants and load as planned; tire pressures recorded"),
    ("Receiver", "Mount tight, sky in view, antenna not moved since the last run"),
    ("Receiver", "Good fix: ten satellites or more, held for a minute"),
)
ADDED: dict[str, tuple[tuple[str, str], ...]] = {
    PlanKind.STOPS: (
        ("Stops", "Nobody behind, nothing on the seats; the pedal pressed fully until rest"),
        ("Stops", "Brakes cooled for the planned time before each stop"),
    ),
    PlanKind.ROLL_ON: (("Roll-ons", "Speed held steady for three seconds, then full power at once"),),
    PlanKind.SWEEP: (("Sweep", "Charge run down by driving, not by waiting; battery temperature inside the window"),),
    PlanKind.SIDE_BY_SIDE: (
        ("Two cars", "Both cars at the same settings and within three points of charge"),
        ("Two cars", "Lanes agreed and swapped after every pass; one starter, both drivers on radio"),
        ("Two cars", "Whoever lifts first brakes last; nobody crosses lanes"),
    ),
}


def template(kind: str) -> list[tuple[str, str]]:
    """Sections and lines for a kind of test."""
    return [*BASE, *ADDED.get(kind, ())]
