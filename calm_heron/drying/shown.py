"""A drying as it is shown: everything its page, and what asks without keeping, say of one answer."""

from typing import Any

from calm_heron.drying import drawings, queries, questions, ready_words, words
from calm_heron.drying.questions import DryingQuestion
from calm_heron.site.numbers import percent
from calm_heron.workshops.fields import CalmForm
from wood.drying import stages
from wood.drying.defects import RiskLevel
from wood.errors import OutOfRange
from wood.units import System
from wood.written import said_length

RISKS_MARKED = (RiskLevel.HIGH, RiskLevel.WATCH)


def complain(form: CalmForm, beyond: OutOfRange) -> None:
    """Each value is possible by itself, and not all of them together: said beside the field that must give way."""
    what = "A log’s diameter" if beyond.field == "diameter_m" else "This"
    form.complain(beyond, what + " must lie between {low} and {high} to be computed with.", {"diameter_m": "thickness_m"})


def shown(question: DryingQuestion, system: System, frames: tuple[drawings.Frame, ...]) -> dict[str, Any]:
    """Everything that is shown of one answer, by the names that ``drying/answer.html`` calls it."""
    answer = queries.answered(question.question)
    risks = stages.risks(question.question, question.species, answer.history, ends_sealed=question.ends_sealed)
    risks_described = [words.describe_risk(risk, system, question.around.method) for risk in risks if risk.level in RISKS_MARKED]
    today, log, series = queries.today(), question.log, question.around.setting.series
    if question.place_target is not None:
        described = ready_words.describe(question, answer, risks_described)
    else:
        described = words.describe(answer, question.start, question.target, question.start_date, question.around, risks_described)
    past = list(zip(log.days, log.moistures, strict=True)) if question.start_date <= today else []
    return {
        "question": question,
        "wanted": "" if question.place_target else percent(question.target),
        "answer": answer,
        "described": described,
        "risks": risks_described,
        "low_risks": [words.NAMES[risk.kind].lower() for risk in risks if risk.level is RiskLevel.LOW],
        "risks_unknown": not risks,
        "courses": [
            drawings.course(answer, question.question, question.start_date, past, risks_described, today, frame) for frame in frames
        ],
        "strips": drawings.month_strips(answer, question.start_date, today, frames)
        if question.around.method.core.outdoors and question.then is None
        else [],
        "table": drawings.table(answer.history, question.start_date),
        "learned": log.learned,
        "flags": [words.FLAGS[flag] for flag in log.learned.flags] if log.learned else [],  # type: ignore[index]
        "absurd": [log.days[k] for k in log.learned.absurd] if log.learned else [],
        "species_basis": words.basis(question.figures, question.species, system),
        "pace": question.question.figures,
        "beside": words.beside(answer.rule_of_thumb_days, question.species, question.start, system),
        "driest": words.driest(question.driest),
        "frost": words.frost(questions.frozen_days(question, answer)),
        "thickness": said_length(question.thickness_m, system),
        # How far above the tabulated moisture wood stays that dries in this air.
        "sorption_gap": float(series.half_loop.mean()),
    }
