"""What a data package says about itself."""

from __future__ import annotations

from coombe_core.packages.package import Package
from coombe_core.packages.tables import LICENSES, TABLES


def readme(package: Package) -> str:
    """The text that explains a package to somebody who finds it."""
    about = package.about
    by = f" by {about.made_by}" if about.made_by else ""
    tables = "\n".join(f"- `tables/{name}.csv`: {len(package.tables.get(name, ()))} rows" for name in TABLES)
    return f"""# {about.title}

Made {about.created}{by} with Coombe, core {about.core_version}. License: {LICENSES.get(about.license, about.license)}.

Numbers are in SI units, named in each column. `u95` is the half-width of a 95 % interval.
`datapackage.json` describes every column, and has the SHA-256 of every file.

{tables}
- `logs/`: the bytes that the receivers wrote, unchanged
- `traces/`: the fixes near each run and the fitted curve, as Parquet
- `inputs.json`: what the comparison took beside the runs

`./coombe verify PACKAGE` reads the logs again, times and compares anew, and says line by line whether these numbers
come out.
"""


def summary(agree: int, differ: int, unchecked: int, made_with: str, here: str) -> str:
    """What verifying came to."""
    total = agree + differ
    end = f"; {unchecked} not checked" if unchecked else ""
    versions = "" if made_with == here else f" Published with core {made_with}, checked with {here}."
    if differ == 0:
        return f"All {total} agree{end}.{versions}"
    return f"{agree} of {total} agree; {differ} differ{end}.{versions}"
