"""Comparisons as the command's JSON (schema coombe.comparison/2)."""

from __future__ import annotations

from dataclasses import asdict

from coombe_core import __version__
from coombe_core.comparing.breakdown import Band
from coombe_core.comparing.comparison import Comparison
from coombe_core.comparing.differences import Row
from coombe_core.comparing.statistics.interval import Difference
from coombe_core.comparing.statistics.samples import Sample
from coombe_core.wording.adjustment import refusal
from coombe_core.wording.comparison import reasons_of, sentence_of
from coombe_core.wording.sources import row_source, sensitivity_source

Json = dict[str, object]


def comparison_json(result: Comparison, adjusted: Comparison | None = None) -> Json:
    """What `coombe compare --json` prints; `adjusted` is the same comparison adjusted, where it is not so itself."""
    adjusted = adjusted or result
    difference = result.difference
    return {
        "schema": "coombe.comparison/2",
        "core_version": __version__,
        "measure": result.measure.name,
        "clock": result.clock,
        "quantity": result.quantity,
        "before": _sample_json(result.before),
        "after": _sample_json(result.after),
        "difference": difference and _difference_json(difference),
        "unit": result.unit,
        "better": result.better,
        "p_value": difference and difference.p_value,
        "dof": difference and min(difference.dof, 1e6),
        "confidence_better": result.confidence_better,
        "test": result.weighed and ("days" if result.weighed.layout.kind == "days" else "least squares"),
        "unadjusted": result.unadjusted and _difference_json(result.unadjusted.difference),
        "adjusted": _adjusted_json(adjusted),
        "adjustments": _adjustments_json(adjusted),
        "refused": {each.factor.name: refusal(each) for each in adjusted.adjustment.refused}
        if adjusted.adjustment
        else {},
        "difference_that_matters": result.asked.difference_that_matters,
        "condition_differences": [_condition_differences_json(row) for row in result.like.rows],
        "separating": result.like.separating,
        "parted_at": result.went.parted_at,
        "outliers": result.checks.outliers,
        "permutation_p": result.permutation and result.permutation.p_value,
        "detectable": result.detectable_difference,
        "verdict": result.verdict,
        "sentence": sentence_of(result),
        "reasons": reasons_of(result),
        "bands": [_band_json(band) for band in result.bands],
        "character": result.character,
    }


def _sample_json(group: Sample | None) -> Json:
    return {"n": 0, "mean": None, "sd": None, "best": None} if group is None else asdict(group)


def _difference_json(found: Difference) -> Json:
    return {"value": found.value, "low95": found.low95, "high95": found.high95}


def _adjusted_json(result: Comparison) -> Json | None:
    """The adjusted difference with the factors that it was adjusted for."""
    if result.adjusted is None:
        return None
    found = _difference_json(result.adjusted.difference)
    return {"difference": found, "for": [row["factor"] for row in _adjustments_json(result)]}


def _adjustments_json(result: Comparison) -> list[Json]:
    """What each factor took out of the difference, and where its sensitivity comes from."""
    if result.adjustment is None or result.adjusted is None:
        return []
    about = result.adjustment.sensitivities
    return [
        {
            "factor": name,
            "removed": removed,
            "kind": row.kind,
            "source": sensitivity_source(row),
            "per_unit": row.per_unit,
        }
        for name, removed in result.adjustment.removed(result.adjusted.contrast).items()
        if (row := about.of(name))
    ]


def _condition_differences_json(row: Row) -> Json:
    words = row.words or ({}, {})
    return {
        "factor": row.name,
        "unit": row.unit,
        "digits": row.digits,
        "before": row.before,
        "after": row.after,
        "before_noted": row.noted[0],
        "after_noted": row.noted[1],
        "before_words": words[0],
        "after_words": words[1],
        "differs": row.differs,
        "effect": row.effect and {"value": row.effect.value, "u95": row.effect.u95},
        "source": row_source(row),
        "adjusted": row.adjusted,
    }


def _band_json(band: Band) -> Json:
    unit = "m" if band.basis == "distance" else "mps"
    ends = {f"from_{unit}": band.start, f"to_{unit}": band.end}
    return ends | {"difference_s": band.difference_s, "low95": band.low95, "high95": band.high95}
