"""`wily-magpie templates`: what templates there are, tried, tested, brought out and in."""

import argparse
import sys
from pathlib import Path

from wily_magpie.core.session.session import Session
from wily_magpie.shell.output import DONE, USER_ERROR, emit, say, show


def run(args: argparse.Namespace, session: Session) -> int:
    """Does what was asked."""
    return ACTS[args.act or "list"](args, session)


def list_all(_args: argparse.Namespace, session: Session) -> int:
    """The templates."""
    for one in session.reader.templates.templates():
        emit(
            {
                "name": one.name,
                "writes": one.writes,
                "is_on": one.is_on,
                "match": [str(rule) for rule in one.match],
                "fields": list(one.fields),
                "samples": len(session.reader.templates.sample_rows(one.name)),
            }
        )
    return DONE


def show_one(args: argparse.Namespace, session: Session) -> int:
    """One in its open form."""
    from wily_magpie.core.templates.open_form import to_json

    show(to_json(session.reader.templates.template(args.name)) + "\n")
    return DONE


def try_one(args: argparse.Namespace, session: Session) -> int:
    """What a page would give."""
    from wily_magpie.core.capture.run import CaptureRun
    from wily_magpie.shell.extract import load

    run = CaptureRun(session)
    slip = run.slip(run.reading(load(args.page, "", session.fetcher)), args.template)
    say(f"{slip.template.name} ({slip.reason}), into {session.place(slip.place).name}")
    for line in slip.lines:
        emit(
            {
                "field": line.field.key,
                "value": line.text,
                "origin": ", ".join(filter(None, (line.origin, line.note))),
                "problem": line.problem,
            }
        )
    emit({"field": "body", "value": slip.body, "origin": "", "problem": slip.body_problem})
    return DONE


def add_sample(args: argparse.Namespace, session: Session) -> int:
    """A further sample, with its values accepted."""
    from wily_magpie.core.commands.templates import Accept, AddSample
    from wily_magpie.core.pages.apart import read_page
    from wily_magpie.shell.extract import load

    templates = session.reader.templates
    name = templates.template(args.name).name
    page = load(args.page, "", session.fetcher)
    number = session.do(AddSample(name, page, read_page(page)))
    accepted = templates.given_now(name, number)
    session.do(Accept(name, accepted))
    emit({"template": args.name, "sample": number, "accepted": len(accepted)})
    return DONE


def test(args: argparse.Namespace, session: Session) -> int:
    """The templates' own tests."""
    for name in args.names:
        session.reader.templates.template(name)
    count, faults = session.reader.templates.test(args.names)
    for fault in faults:
        emit(
            {
                "template": fault.template,
                "sample": fault.sample,
                "field": fault.key,
                "accepted": fault.accepted,
                "now": fault.now,
                "problem": fault.problem,
            }
        )
        say(str(fault))
    say(f"{count} accepted values, {len(faults)} differ")
    return USER_ERROR if faults else DONE


def export(args: argparse.Namespace, session: Session) -> int:
    """Templates as JSON."""
    from wily_magpie.core.exchange import templates

    show(templates.export(session.reader, args.names, with_samples=args.samples))
    return DONE


def take_in(args: argparse.Namespace, session: Session) -> int:
    """Templates from a file."""
    from wily_magpie.core.exchange import templates

    is_piped = args.file == "-"
    text = sys.stdin.buffer.read().decode("utf-8", "replace") if is_piped else templates.read(Path(args.file))
    look = templates.look_at_import(session.reader, text)
    incoming = look.templates
    for fault in look.faults:
        say(fault)
    for one in incoming:
        emit(
            {
                "name": one.template.name,
                "writes": one.template.writes,
                "replaces": one.is_known,
                "samples": len(one.samples),
                "told": list(one.told),
            }
        )
    if args.yes:
        session.do(templates.bringing_in(look, text))
        say("One template is brought in." if len(incoming) == 1 else f"{len(incoming)} templates are brought in.")
    else:
        say("Nothing is changed yet; --yes brings them in.")
    return DONE


ACTS = {
    "list": list_all, "show": show_one, "try": try_one, "sample": add_sample, "test": test, "export": export, "import": take_in,
}  # fmt: skip
