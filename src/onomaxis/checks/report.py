"""One report, four forms: JSON, SARIF and Markdown here, text by the command line. Functions return data."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Sequence
from typing import Any

from onomaxis import __version__
from onomaxis.checks.finding import Finding, Rule
from onomaxis.visible import code, escaped

# SARIF 2.1.0 (OASIS), section 3.27.10: the levels of a result.
_LEVELS = {"error": "error", "warning": "warning", "note": "note"}
_SCHEMA = "https://docs.oasis-open.org/sarif/sarif/v2.1.0/os/schemas/sarif-schema-2.1.0.json"


def as_document(findings: Sequence[Finding]) -> dict[str, Any]:
    """Return findings as the JSON document that docs/json.md describes."""
    return {
        "findings": [
            {
                "code": finding.rule.code,
                "severity": finding.rule.severity,
                "title": finding.rule.title,
                "message": finding.message,
                "flavor": finding.flavor,
                "at": [{"file": file, "line": line} for file, line in finding.at],
                "remedy": finding.rule.remedy,
                "fault": finding.fault,
            }
            for finding in findings
        ]
    }


def as_text(form: str, findings: Sequence[Finding], rules: Sequence[Rule]) -> str:
    """Return findings in a form that other programs read: ``sarif``, or ``markdown`` for a code review's comment."""
    if form == "markdown":
        return as_markdown(findings)
    return json.dumps(as_sarif(findings, rules), ensure_ascii=False, indent=2) + "\n"


def as_markdown(findings: Sequence[Finding]) -> str:
    """Return findings as a comment of a code review: their number, a table of faults, each rule's remedy below it."""
    numbers = Counter(finding.rule.severity for finding in findings)
    said = ", ".join(f"{n} {word}{'s' if n > 1 else ''}" for word in _LEVELS if (n := numbers[word]))
    lines = [f"**Onomaxis: {said or 'nothing found'}**", ""]
    if not findings:
        return lines[0] + "\n"
    faults: dict[str, list[Finding]] = {}
    for finding in findings:
        faults.setdefault(finding.fault, []).append(finding)
    lines += ["| | rule | where | what |", "| --- | --- | --- | --- |"]
    told = [sorted(mates, key=lambda item: bool(item.cause)) for mates in faults.values()]  # the cause first
    for first, *others in told[:_MOST]:
        what = escaped(first.message) + (f" (and {len(others)} more of this fault)" if others else "")
        lines.append(f"| {first.rule.severity} | {first.rule.code} | {code(first.place)} | {what} |")
    if len(faults) > _MOST:
        lines.append(f"| | | | and {len(faults) - _MOST} more faults |")
    rules = dict.fromkeys(found[0].rule for found in told[:_MOST])
    lines += ["", *(f"- {rule.code}: {escaped(rule.title)}. {escaped(rule.remedy)}" for rule in rules)]
    return "\n".join(lines) + "\n"


# Faults that a comment lists: a longer one is not read.
_MOST = 30


def as_sarif(findings: Sequence[Finding], rules: Sequence[Rule]) -> dict[str, Any]:
    """Return findings as a SARIF 2.1.0 log, with every rule that was looked at."""
    index = {rule.code: number for number, rule in enumerate(rules)}
    driver = {
        "name": "onomaxis",
        "version": __version__,
        "rules": [
            {
                "id": rule.code,
                "shortDescription": {"text": rule.title},
                "help": {"text": f"{rule.remedy} ({rule.source})"},
                "defaultConfiguration": {"level": _LEVELS[rule.severity]},
            }
            for rule in rules
        ],
    }
    results = [
        {
            "ruleId": finding.rule.code,
            "ruleIndex": index[finding.rule.code],
            "level": _LEVELS[finding.rule.severity],
            "message": {"text": f"{finding.rule.title}: {finding.message}. {finding.rule.remedy}"},
            "locations": [_location(file, line) for file, line in finding.at],
            "partialFingerprints": {"fault/v1": finding.fault},
        }
        for finding in findings
    ]
    return {"$schema": _SCHEMA, "version": "2.1.0", "runs": [{"tool": {"driver": driver}, "results": results}]}


def _location(file: str, line: int) -> dict[str, Any]:
    physical: dict[str, Any] = {"artifactLocation": {"uri": file}}
    if line:
        physical["region"] = {"startLine": line}
    return {"physicalLocation": physical}
