"""`wily-magpie templates`: what templates there are, tried, tested, brought out and in."""

import argparse
import sys
from pathlib import Path

from wily_magpie.core.session.session import Session
from wily_magpie.core.templates.open_form import to_json
from wily_magpie.shell.extract import load
from wily_magpie.shell.output import DONE, USER_ERROR, emit, say, show


def add_parser(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """The words of this command."""
    parser = commands.add_parser("templates", help="list, try, test, export and import templates")
    parser.add_argument("--library", type=Path, metavar="DIR")
    parser.set_defaults(act="list")
    acts = parser.add_subparsers(dest="act", metavar="ACT")
    acts.add_parser("list", help="print the templates in the order in which they are tried, one object each")
    one = acts.add_parser("show", help="print one as JSON")
    one.add_argument("name", metavar="NAME")
    trial = acts.add_parser("try", help="print what a page would give, one object a field; nothing is kept")
    trial.add_argument("page", metavar="ADDRESS|FILE")
    trial.add_argument("--template", metavar="NAME", help="instead of the one whose match rules take the page")
    sample = acts.add_parser("sample", help="keep a page as a sample of a template, and accept what it gives now")
    sample.add_argument("name", metavar="NAME")
    sample.add_argument("page", metavar="ADDRESS|FILE")
    test = acts.add_parser("test", help="hold templates against what was accepted; ends with 1 where anything differs")
    test.add_argument("names", nargs="*", metavar="NAME")
    out = acts.add_parser(
        "export", help="print templates as JSON; without a name all of them: the capture settings as a whole"
    )
    out.add_argument("names", nargs="*", metavar="NAME")
    out.add_argument("--samples", action="store_true", help="with their sample pages and what was accepted")
    taken = acts.add_parser("import", help="show what a file of templates would bring in; with --yes, bring it in")
    taken.add_argument("file", metavar="FILE|-")
    taken.add_argument("--yes", action="store_true")


def run(args: argparse.Namespace, session: Session) -> int:
    """Does what was asked."""
    return ACTS[args.act or "list"](args, session)


def list_all(_args: argparse.Namespace, session: Session) -> int:
    """The templates."""
    for one in session.templates():
        emit(
            {
                "name": one.name,
                "writes": one.writes,
                "is_on": one.is_on,
                "match": [str(rule) for rule in one.match],
                "fields": list(one.fields),
                "samples": len(session.library.templates.samples(one.name)),
            }
        )
    return DONE


def show_one(args: argparse.Namespace, session: Session) -> int:
    """One in its open form."""
    show(to_json(session.template(args.name)) + "\n")
    return DONE


def try_one(args: argparse.Namespace, session: Session) -> int:
    """What a page would give."""
    slip = session.capturing.slip(session.capturing.read(load(args.page, "", session.fetcher)), args.template)
    say(f"{slip.template.name} ({slip.reason}), into {session.place(slip.place).name}")
    for line in slip.lines:
        emit({"field": line.field.key, "value": line.text, "origin": line.origin, "problem": line.problem})
    emit({"field": "body", "value": slip.body, "origin": "", "problem": slip.body_problem})
    return DONE


def add_sample(args: argparse.Namespace, session: Session) -> int:
    """A further sample, with its values accepted."""
    templating = session.templating
    number = templating.add_sample(session.template(args.name).name, load(args.page, "", session.fetcher))
    count = templating.accept_all(args.name, number)
    emit({"template": args.name, "sample": number, "accepted": count})
    return DONE


def test(args: argparse.Namespace, session: Session) -> int:
    """The templates' own tests."""
    for name in args.names:
        session.template(name)
    count, faults = session.templating.test(args.names)
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
    show(session.exchange.export(args.names, with_samples=args.samples))
    return DONE


def take_in(args: argparse.Namespace, session: Session) -> int:
    """Templates from a file."""
    exchange = session.exchange
    text = sys.stdin.buffer.read().decode("utf-8", "replace") if args.file == "-" else exchange.read(Path(args.file))
    incoming = exchange.look_at_import(text)
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
        exchange.take_in(incoming, text)
        say("One template is brought in." if len(incoming) == 1 else f"{len(incoming)} templates are brought in.")
    else:
        say("Nothing is changed yet; --yes brings them in.")
    return DONE


ACTS = {
    "list": list_all, "show": show_one, "try": try_one, "sample": add_sample, "test": test, "export": export, "import": take_in,
}  # fmt: skip
