"""From what a projection was made."""

from __future__ import annotations

from coombe_core.comparing.projections import TAPER_U95, Projection
from coombe_core.uncertainty import COVERAGE_95
from coombe_core.wording.quantities import signed
from coombe_core.wording.sources import sensitivity_source


def projection_basis(found: Projection) -> str:
    """Say what a projection rests on."""
    row = found.sensitivity
    if row is not None:
        size = f"{signed(row.per_unit, 4)} s ± {COVERAGE_95 * row.error:.4f} s"
        return f"{size} per {row.factor.unit} of {row.factor.name}; {sensitivity_source(row)}"
    taper = f"± {100 * TAPER_U95:.0f} % for a taper"
    return f"carried on from {found.from_mps:.1f} m/s at {found.power_w / 1000:.0f} kW, {taper}"
