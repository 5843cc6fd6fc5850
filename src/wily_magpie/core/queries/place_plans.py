"""The fields that a place for some pages should have: those that a template fills, of the kinds that such fields usually have."""

from wily_magpie.core.entries.field import FieldPlan
from wily_magpie.core.places.starters import STARTERS
from wily_magpie.core.templates.propose import FOR_FIELDS, KEYS, propose_fields
from wily_magpie.core.templates.rule_context import RuleContext
from wily_magpie.core.templates.template import Template


def plans_for(template: Template) -> list[FieldPlan]:
    """A field for each that a template fills, besides the usual ones."""
    plans = [plan_for(key) for key in dict.fromkeys([*template.fields, "address", "captured"])]
    return [plan for plan in plans if plan.key != "title"]


def plans_for_page(template: Template, context: RuleContext) -> list[tuple[FieldPlan, bool]]:
    """The fields that a place for such pages could have: what the page says, and what the template fills.

    Returns:
        Each with whether it is proposed: whether this page has something for it.
    """
    found = {plan.key: True for plan, _ in propose_fields([context])}
    plans = {plan.key: plan for plan, _ in propose_fields([context])}
    for plan in plans_for(template):
        rule = template.rule_of(plan.key)
        says = rule is None or rule.source != "finding" or any(context.look_up(name) for name in rule.words)
        plans.setdefault(plan.key, plan)
        found[plan.key] = found.get(plan.key, False) or says
    return [(plan, found[key]) for key, plan in plans.items()]


def plan_for(key: str) -> FieldPlan:
    """A field of that key as starters have it, else as pages are read, else a text."""
    known = {plan.key: plan for one in reversed(STARTERS) for plan in one.fields}  # the first starter's word counts
    label = key.replace("_", " ").capitalize()
    read = {KEYS.get(name, name): FieldPlan(KEYS.get(name, name), label, kind) for name, label, kind in FOR_FIELDS}
    return known.get(key) or read.get(key) or FieldPlan(key, label, "text")
