"""What processes count for a monitoring system, besides what django-prometheus counts of requests.

Where `PROMETHEUS_MULTIPROC_DIR` names a folder, every process of an installation counts into it, and
`manage.py metrics` shows them together.
"""

from __future__ import annotations

from prometheus_client import Counter, Histogram

FIXES = Counter("coombe_fixes", "Fixes that a recorder received.", ["recorder"])
GAPS = Counter("coombe_gaps", "Gaps of a recording, by what caused them.", ["cause"])
COMPARING = Histogram(
    "coombe_comparing_seconds",
    "How long a comparison took, its verdict or its details.",
    ["part"],
    buckets=(0.05, 0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0),
)
IMPORTING = Histogram(
    "coombe_importing_seconds",
    "How long it took to read and time a log.",
    buckets=(0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 30.0, 120.0),
)
