"""`ghost-step check`."""

import argparse
import json
from dataclasses import replace

from ghoststep.cli.dash import DASH, check_outs, words_aside, write_outs
from ghoststep.files.feels import use_shelf
from ghoststep.files.keymap import read_keys
from ghoststep.files.kit_setups import read_setup
from ghoststep.files.places import keys_file
from ghoststep.files.safe import shown
from ghoststep.judge.check import Report, checked
from ghoststep.judge.finding import Finding
from ghoststep.judge.kit_setup import with_pedals
from ghoststep.judge.limits import playable_to
from ghoststep.judge.words import began
from ghoststep.session.document.judged import Judged
from ghoststep.work.checking import as_json, with_mends
from ghoststep.work.kits import use_kits
from ghoststep.work.opening import open_document


def check(options: argparse.Namespace) -> int:
    """Say what no drummer could play in a groove, what none would, what gives a machine away, and what mends it."""
    use_shelf()
    use_kits()
    check_outs((options.json,), (), (options.groove, options.setup))
    document = open_document(options.groove, read_keys(keys_file()))
    judged = _told_by(options, document.judged)
    terms = judged.terms
    report = checked(document.groove, terms, judged.meant)
    findings, untried = with_mends(document.groove, report, terms)
    if options.json is not None:
        text = json.dumps(as_json(report, findings, terms), indent=1, ensure_ascii=False) + "\n"
        content = text.encode("utf-8", "surrogateescape")
        write_outs([(options.json, lambda file: file.write(content))])
    with words_aside((options.json,)):
        print("\n".join(_told(report, findings, untried)))
        if options.json not in (None, DASH):
            print(f"{shown(options.json)} written")
    return 0


def _told_by(options: argparse.Namespace, judged: Judged) -> Judged:
    """What the project is checked against, with what the options say otherwise."""
    if options.setup is not None:
        judged = judged.with_kit(read_setup(options.setup))
    setup = judged.setup if options.pedals is None else with_pedals(options.pedals).name
    styles = tuple(dict.fromkeys([*judged.styles, *options.allow]))
    player, way = options.player or judged.player, options.way or judged.way
    return replace(judged, player=player, way=way, setup=setup, styles=styles)


def _told(report: Report, findings: list[Finding], untried: int) -> list[str]:
    out = []
    for f in findings:
        out.append(f"bar {f.bar} {f.spot}  {f.kind}: {f.why}")
        out += [f"    mend: {phrase}" for phrase in f.mends[:3]]
    if untried:
        out.append(f"(mends of the last {untried} findings were not tried)")
    if not findings:
        out.append("Nothing found: a drummer could play it, and would.")
    likeness = report.likeness
    out.append(f"Like a player: {likeness.score * 100:.0f} %, taken for {_TAKEN[likeness.taken_for]}")
    out += [f"    {reason.words}" for reason in likeness.reasons]
    out.append(began(report.difficulty.words))
    top = playable_to(list(report.limits))
    out.append(f"Playable up to {top} BPM" if top is not None else "No tempo limits it")
    return out


_TAKEN = {
    "straight": "a machine",
    "copied": "bars that were copied",
    "dice": "dice: each stroke strays on its own",
    "player": "a player",
}
