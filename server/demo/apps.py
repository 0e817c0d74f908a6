"""The demo gives the simulation what its invented cars are."""

from django.apps import AppConfig


class DemoConfig(AppConfig):
    """The invented season."""

    name = "demo"

    def ready(self) -> None:
        """Make the season's cars known."""
        from demo.season import SETUPS
        from recording.simulation import KNOWN_CARS

        KNOWN_CARS.update({(known.car, known.name): known.simulated for known in SETUPS})
