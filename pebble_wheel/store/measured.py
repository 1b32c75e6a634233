"""What was measured, as it can be learned from: entries of the log with the design that they were noted of."""

from dataclasses import replace
from datetime import datetime

from pebble_wheel.notation.design import Design
from pebble_wheel.notation.log import Record
from pebble_wheel.notation.record import Skein
from pebble_wheel.notation.sample import STEEPEST, Sample
from pebble_wheel.store import records
from pebble_wheel.workshop.learn import Noted, sample_of


def yarn_key(number: int, design: Design) -> str:
    """Return by what a yarn is known among a spinner's: its design as it was planned, whatever its name or wash."""
    return f"{number} {design.yarn.model_dump_json(exclude_none=True)}"


def noted_of(entry: records.Noted[Record], steep: float = 0.0) -> Noted | None:
    """Return an entry as a sample that can be learned from; None where it is none, or its plan cannot be read.

    Args:
        entry: of the log.
        steep: degrees by which the eye of its spinner reads angles too steep; they are taken off.
    """
    record = entry.record
    sample = record if isinstance(record, Sample) else sample_of(record) if isinstance(record, Skein) else None
    if sample is not None and sample.angle is not None and not sample.photos:
        sample = replace(sample, angle=min(max(sample.angle - steep, 90 - STEEPEST), STEEPEST))
    plan = records.plan_of(entry)
    if sample is None or plan is None:
        return None
    whole, when = isinstance(record, Skein), datetime.fromisoformat(entry.noted_at)
    return Noted(entry.id, plan, yarn_key(entry.design, plan), sample, entry.struck, when, whole)
