"""What a comparison took, as JSON: its groups with their states, and what was known beside them."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import asdict
from typing import Any

import numpy as np

from coombe_core.comparing.comparison import Asked, Comparison, Group, Known
from coombe_core.comparing.factors import FACTORS
from coombe_core.comparing.sensitivity import Sensitivities, Sensitivity
from coombe_core.comparing.state import State
from coombe_core.comparing.statistics.scatter import Scatter
from coombe_core.comparing.verdict import compare
from coombe_core.timing.measures import parse_measure
from coombe_core.uncertainty import Value

BY_NAME = {factor.name: factor for factor in FACTORS}


def inputs_of(made: Comparison) -> dict[str, Any]:
    """Everything that a comparison took, and what came of it.

    Parameters
    ----------
    made : Comparison

    Returns
    -------
    dict
        Plain values, for JSON; infinite degrees of freedom are null.
    """
    found = made.difference
    return {
        "measure": made.measure.name,
        "clock": made.clock,
        "quantity": made.quantity,
        "groups": [_group(group) for group in made.groups],
        "asked": {
            "adjust": sorted(made.asked.adjust),
            "difference_that_matters": made.asked.difference_that_matters,
            "match": made.asked.match,
        },
        "known": _known(made.known),
        "found": {
            "verdict": made.verdict,
            "several_p": made.several.p_value if made.several else None,
            "value": found.value if found else None,
            "low95": found.low95 if found else None,
            "high95": found.high95 if found else None,
        },
    }


def compared_again(inputs: Mapping[str, Any]) -> Comparison:
    """Compare once more what a comparison took. Raises ValueError, KeyError or TypeError where the inputs are none."""
    asked = inputs["asked"]
    before, after = (_group_of(group) for group in inputs["groups"])
    return compare(
        parse_measure(inputs["measure"]),
        inputs["clock"],
        before,
        after,
        inputs["quantity"],
        _known_of(inputs["known"]),
        Asked(frozenset(asked["adjust"]), asked["difference_that_matters"], asked["match"]),
    )


def _group(group: Group) -> dict[str, Any]:
    states = [
        {name: value for name, value in asdict(state).items() if value not in (None, "")} for state in group.states
    ]
    return {"name": group.name, "values": list(group.values), "common_u95": group.common_u95, "states": states}


def _group_of(group: Mapping[str, Any]) -> Group:
    states = [State(**state) for state in group["states"]]
    return Group(list(group["values"]), common_u95=group["common_u95"], states=states, name=group["name"])


def _known(known: Known) -> dict[str, Any]:
    rows = known.sensitivities.rows
    return {
        "scatter": asdict(known.scatter) if known.scatter else None,
        "sensitivities": [
            asdict(row) | {"factor": row.factor.name, "dof": None if math.isinf(row.dof) else row.dof} for row in rows
        ],
        "covariance": known.sensitivities.covariance.tolist(),
        "receivers": [[*names, share.value, share.u95] for names, share in known.receivers.items()],
    }


def _known_of(known: Mapping[str, Any]) -> Known:
    rows = tuple(
        Sensitivity(**row | {"factor": BY_NAME[row["factor"]], "dof": math.inf if row["dof"] is None else row["dof"]})
        for row in known["sensitivities"]
    )
    covariance = np.array(known["covariance"], dtype=np.float64).reshape(len(rows), len(rows))
    return Known(
        Scatter(**known["scatter"]) if known["scatter"] else None,
        Sensitivities(rows, covariance),
        {(first, second): Value(value, u95) for first, second, value, u95 in known["receivers"]},
    )
