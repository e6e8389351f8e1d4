"""One report, three forms: JSON and SARIF here, text by the command line. Functions return data; nothing prints."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from onomaxis import __version__
from onomaxis.checks.finding import Finding, Rule

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
