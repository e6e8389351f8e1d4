"""The whole of a check: the families asked for, what the identity file allows, one flavor alone."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from onomaxis.checks.context import Context, look
from onomaxis.checks.examples import EXAMPLES
from onomaxis.checks.files import tried
from onomaxis.checks.finding import Finding, Rule, all_rules, sorted_findings
from onomaxis.checks.listing import ENDED, UNUSED
from onomaxis.checks.registry import every_check
from onomaxis.flavor_names import selects
from onomaxis.identity.declared import Allowed
from onomaxis.identity.file import IdentityFile
from onomaxis.surveys.flavors import flavors_of, known_flavor
from onomaxis.tree import Tree


def look_over(
    tree: Tree, only: Sequence[str] = (), flavor: str = "", publish: bool = False
) -> tuple[tuple[Finding, ...], tuple[Rule, ...]]:
    """Check the families that are asked for; return what was found and every rule that was looked at.

    Rules for publication are errors with *publish*, or where the identity file says so, and notes otherwise.
    """
    return judged(look(tree), only, flavor, publish)


def judged(
    context: Context, only: Sequence[str] = (), flavor: str = "", publish: bool = False
) -> tuple[tuple[Finding, ...], tuple[Rule, ...]]:
    """Return what is wrong with what was taken in, as ``look_over`` does."""
    flavor = known_flavor(context.projects, flavor, context.file.flavors if context.file else (), combined=True)
    chosen = [item for item in every_check() if not only or item.family in (*only, "files")]
    found = [finding for item in chosen for finding in tried(item, context)]
    if context.file is not None and context.file.standing:  # the whole tree is that brand
        found = [item if item.flavor else item._replace(flavor=context.file.standing) for item in found]
    rules = tuple(dict.fromkeys(rule for item in chosen for rule in item.rules))
    kept = allowed(context, found, rules)
    if context.file:
        rules = tuple(dict.fromkeys([*rules, UNUSED, ENDED]))
    if _is_template(context):
        kept = [item._replace(rule=_eased(item.rule, item.rule.code in _LEFT)) for item in kept]
    if not (publish or (context.file is not None and context.file.top.get("publish", False))):
        kept = [item._replace(rule=_eased(item.rule, item.rule.publish)) for item in kept]
        rules = tuple(_eased(rule, rule.publish) for rule in rules)
    return sorted_findings(of_flavor(kept, flavor, context) if flavor else kept), rules


# What templates and wizards leave for a person to do, beside name, ID and icon: signing, versions, descriptions.
_LEFT = frozenset(
    "ICON06 ICON07 ICON08 ICON10 LIST02 NAME01 NAME04 NAME08 PLATFORM04 SIGN02 VERSION08 VERSION02".split()
)


def _is_template(context: Context) -> bool:
    """Tell whether no app here has an ID of its own yet: what a template left undone is no fault so far."""
    ids = [app.id.text for _, app in context.apps() if app.id is not None]
    return not ids or all(EXAMPLES.match(text) for text in ids)


def _eased(rule: Rule, eased: bool) -> Rule:
    return rule._replace(severity="note") if eased else rule


def of_flavor(findings: Iterable[Finding], flavor: str, context: Context) -> list[Finding]:
    """Return the findings about a flavor: its own, its combinations', and those about what all flavors share."""
    known = flavors_of(context.projects)
    return [item for item in findings if not item.flavor or selects(flavor, item.flavor, known)]


def allowed(context: Context, findings: Sequence[Finding], looked_at: Sequence[Rule]) -> list[Finding]:
    """Leave out what the identity file allows; an allowance for nothing is a finding of its own."""
    file = context.file
    if file is None:
        return list(findings)
    codes = {rule.code for rule in looked_at}
    known = set(all_rules())
    kept, used = not_allowed(file, findings, context.on)
    for item in file.allowed:
        if item.has_ended(context.on):
            whose = f", allowed by {item.owner}" if item.owner else ""
            said = f"{item.rule} was allowed until {item.until}{whose}: {item.reason}"
            kept.append(Finding(ENDED, said, ((file.home(item.line), item.line),)))
        elif item not in used and item.rule in codes:
            kept.append(Finding(UNUSED, f"{item.rule}: {item.reason}", ((file.home(item.line), item.line),)))
        elif item.rule not in known:
            kept.append(Finding(UNUSED, f"there is no rule {item.rule}", ((file.home(item.line), item.line),)))
    return kept


def not_allowed(file: IdentityFile, findings: Sequence[Finding], on: str = "") -> tuple[list[Finding], set[Allowed]]:
    """Return the findings that an identity file does not allow, *on* a day, and the allowances that were of use."""
    used: set[Allowed] = set()
    kept = []
    for finding in findings:
        about = (finding.rule.code, finding.flavor, [path for path, _ in finding.at])
        mine = [item for item in file.allowed if item.covers(*about) and not item.has_ended(on)]
        used.update(mine)
        kept += [] if mine else [finding]
    return kept, used
