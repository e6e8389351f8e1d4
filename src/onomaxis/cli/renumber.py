"""``onomaxis renumber``: version and build number, also relative to today's."""

from __future__ import annotations

import argparse

from onomaxis.brands.publishing import load_ledger, next_build
from onomaxis.cli.rename import carry_out
from onomaxis.cli.session import locate, open_to_write
from onomaxis.errors import InputError
from onomaxis.rename.numbers import numbered
from onomaxis.survey.survey import take_survey
from onomaxis.wishes import Wish


def execute(options: argparse.Namespace) -> int:
    """Run the command."""
    locate(options)
    wish = Wish(
        version=options.version or "",
        build=options.build or "",
        flavor=options.flavor,
        app=options.app,
        shared=options.shared,
    )
    if not wish.version and not wish.build:
        raise InputError(
            "no number was given", remedy="Say --version (major, minor, patch or 2.5.0), --build (+1 or 42), or both."
        )
    survey = take_survey(open_to_write(options), wish.app)
    if wish.build == "next":
        wish = wish._replace(build=next_build(survey, load_ledger(survey.tree)))
    return carry_out(options, survey, numbered(survey, wish))
