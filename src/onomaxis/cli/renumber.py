"""``onomaxis renumber``: version and build number, also relative to today's."""

from __future__ import annotations

import argparse
from collections.abc import Mapping

from onomaxis.brands.flavors import chosen_subjects
from onomaxis.brands.fleet_numbers import every_flavor, plan_train, read_train
from onomaxis.brands.levels import plan_levels
from onomaxis.brands.publishing import load_ledger, next_build
from onomaxis.brands.subjects import load_identity
from onomaxis.brands.tree_brand import flavor_here
from onomaxis.cli.flow import carry_through, plain_view
from onomaxis.cli.progress import working
from onomaxis.cli.rename import carry_out
from onomaxis.cli.session import locate, open_to_write
from onomaxis.errors import InputError
from onomaxis.paths import read_named
from onomaxis.rename.numbers import numbered
from onomaxis.surveys.survey import take_survey
from onomaxis.wishes import Wish


def _train(options: argparse.Namespace) -> int:
    """Give many flavors their numbers in one change."""
    if options.flavor or (options.plan and (options.version or options.build or options.every_flavor)):
        raise InputError("a plan names the flavors and their numbers", remedy="Leave the other options out.")
    tree = open_to_write(options)
    if options.plan:
        try:
            cars = read_train(options.plan, read_named(options.plan))
        except OSError as error:
            raise InputError(f"the plan cannot be read: {error.strerror}", file=options.plan) from None
    elif not (options.version or options.build):
        raise InputError("no number was given", remedy="Say --version, --build, or both.")
    else:
        _, meant = chosen_subjects(tree, load_identity(tree), options.app)
        cars = every_flavor(tree, meant, options.version or "", options.build or "")
    if not cars:
        raise InputError("there are no flavors to number", remedy="Leave --every-flavor out.")
    with working(options, "Planning, and reading the result again"):
        plan = plan_train(tree, cars, load_ledger(tree, options.ledger_ref), options.app)
    return carry_through(options, tree, plan, plain_view())


# What identity files call the levels, and the options that give them.
_LEVELS = {"min-sdk": "min_sdk", "target-sdk": "target_sdk", "ios": "deployment_target"}


def _levels(options: argparse.Namespace, levels: Mapping[str, str]) -> int:
    """Write the levels of the app itself."""
    others = (options.version, options.build, options.plan, options.flavor, options.every_flavor, options.platform)
    if any(others):
        said = "a level is the app's own, and its option tells the platform"
        raise InputError(said, remedy="Give levels without numbers, plan, flavor or platform.")
    tree = open_to_write(options)
    with working(options, "Planning, and reading the result again"):
        plan = plan_levels(tree, levels, options.app)
    return carry_through(options, tree, plan, plain_view())


def execute(options: argparse.Namespace) -> int:
    """Run the command."""
    locate(options)
    levels = {name: text for name, key in _LEVELS.items() if (text := getattr(options, key))}
    if levels:
        return _levels(options, levels)
    if options.plan or options.every_flavor:
        return _train(options)
    wish = Wish(
        version=options.version or "",
        build=options.build or "",
        flavor=options.flavor,
        app=options.app,
        platforms=tuple(options.platform),
        shared=options.shared,
    )
    if not wish.version and not wish.build:
        raise InputError(
            "no number was given", remedy="Say --version (major, minor, patch or 2.5.0), --build (+1 or 42), or both."
        )
    survey = take_survey(open_to_write(options), wish.app)
    if wish.build == "next":
        _, standing = flavor_here(survey.tree, survey.projects, wish.flavor)
        known = load_ledger(survey.tree, options.ledger_ref)
        wish = wish._replace(build=next_build(survey, known, wish.flavor or standing))
    return carry_out(options, survey, numbered(survey, wish))
