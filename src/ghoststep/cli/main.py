"""`ghost-step`: opens the window, or runs one command without it.

Exit codes: 0 done, 2 bad input (one clear sentence on stderr), 1 our own fault.
"""

import argparse
import logging
import os
import sys
from collections.abc import Callable, Sequence
from difflib import get_close_matches
from pathlib import Path
from typing import NoReturn

from ghoststep import __version__
from ghoststep.cli.dash import place
from ghoststep.cli.plain import plain_output, remarks_told
from ghoststep.music.errors import InputError

log = logging.getLogger(__name__)


class _Parser(argparse.ArgumentParser):
    """A parser whose complaint is one sentence."""

    def error(self, message: str) -> NoReturn:
        raise InputError(f"{message[:1].upper()}{message[1:]} (see {self.prog} --help).")


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the command line; returns the exit code."""
    words = list(sys.argv[1:] if arguments is None else arguments)
    # Before NumPy is loaded. Matrices here are small: on two threads they take as long, and twice the work.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    with plain_output():
        return _answered(words)


def _answered(words: list[str]) -> int:
    try:
        return _run(words)
    except InputError as error:
        print(f"ghost-step: {error}", file=sys.stderr)
        return 2
    except KeyboardInterrupt:
        print("ghost-step: stopped.", file=sys.stderr)
        return 130
    except BrokenPipeError:  # the reader of our output went away; what was to be written is written
        sys.stdout = open(os.devnull, "w", encoding="utf-8")  # noqa: PTH123, SIM115 - else closing it complains
        return 0
    except Exception:
        log.exception("a fault of ours")
        print(f"ghost-step: a fault of ours; the details are in {_log_place()}.", file=sys.stderr)
        return 1


def _log_place() -> str:
    from ghoststep.files.places import log_file

    return str(log_file())


def _run(words: list[str]) -> int:
    from ghoststep.files.places import start_log

    if words and words[0] in _COMMANDS:
        start_log()
        remarks_told()
        command = _COMMANDS[words[0]][0]
        return int(command()(_parser_of(words[0]).parse_args(words[1:])))
    options = _window_parser().parse_args(words)
    _check_is_file(options.project)
    start_log()
    from ghoststep.cli.window import open_window

    return open_window(options.project, demo=options.demo, out=options.out)


def parsers() -> list[argparse.ArgumentParser]:
    """What the window and each command take, in the order in which they are told of."""
    return [_window_parser(), *(_parser_of(name) for name in _COMMANDS)]


def _parser_of(name: str) -> "_Parser":
    command, build = _COMMANDS[name]
    parser = _Parser(prog=f"ghost-step {name}", description=command().__doc__)
    build(parser)
    return parser


def _window_parser() -> "_Parser":
    parser = _Parser(
        prog="ghost-step",
        description="Drum grooves heard, written as a grid, and played with touch.",
        epilog=f"Commands without a window: {', '.join(_COMMANDS)}. Each explains itself with --help.",
    )
    parser.add_argument("project", nargs="?", type=Path, help="a project, text grid, MIDI file or recording to open")
    parser.add_argument("--demo", action="store_true", help="open the demo that ships with the program")
    parser.add_argument(
        "--out",
        type=Path,
        metavar="FOLDER",
        help="with --demo and no display: where it writes (a new folder)",
    )
    parser.add_argument("--version", action="version", version=f"Ghost Step {__version__}")
    return parser


def _check_is_file(project: Path | None) -> None:
    """An InputError where what was meant as a command would open a window."""
    if project is None or project.exists() or project.suffix or len(project.parts) != 1:
        return
    near = get_close_matches(project.name, _COMMANDS, n=1)
    hint = f"Did you mean '{near[0]}'?" if near else f"The commands are: {', '.join(_COMMANDS)}."
    raise InputError(f"'{project.name}' is no command, and no file of that name is here. {hint}")


def _listen_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "files",
        nargs="+",
        type=Path,
        metavar="FILE",
        help="a recording or MIDI file, a folder of them, or several tracks of one performance, heard together",
    )
    parser.add_argument(
        "--json", type=Path, metavar="OUT", help="write the analysis (for a folder: a folder; -: stdout)"
    )
    parser.add_argument("--midi", type=place, metavar="OUT", help="write the groove as MIDI (for a folder: a folder)")
    parser.add_argument("--grid", type=Path, metavar="OUT", help="write the groove as a text grid (likewise)")
    parser.add_argument("--form", action="store_true", help="propose its form: parts, variations, sections")
    parser.add_argument("--tempo", type=float, metavar="BPM", help="the tempo, where you know it")
    parser.add_argument("--meter", metavar="7/8", help="the meter, where you know it")
    parser.add_argument("--bars", type=int, metavar="N", help="the number of bars, where you know it")
    parser.add_argument(
        "--click",
        metavar="BPM@SECOND|TAPS.csv",
        help="the click the player heard, or a table of taps along with it; leans are told against it"
        " (one that sounds in the recording is found by itself)",
    )
    parser.add_argument("--from", dest="start", metavar="1:20", help="only from this moment of the file on")
    parser.add_argument("--to", dest="end", metavar="1:52", help="only up to this moment of the file")
    parser.add_argument("--mouth", action="store_true", help="it is mouth drumming: learn its sounds from itself")
    parser.add_argument("--teach", type=Path, metavar="FILE", help="with --mouth: a recording that teaches the sounds")
    parser.add_argument(
        "--sounds",
        metavar="kick,snare,hat_closed",
        help="with --mouth: the voices the recording begins with, or the lesson holds, in their order",
    )
    parser.add_argument("--processes", type=int, metavar="N", help="for a folder: how many at once (all cores)")
    parser.add_argument(
        "--scheduler",
        metavar="ADDRESS",
        help="for a folder: heard by the workers of a dask scheduler, tcp://HOST:PORT, which see the same path",
    )
    parser.add_argument("--again", action="store_true", help="for a folder: hear what was heard before too")
    parser.add_argument("--division", type=int, default=960, metavar="N", help="MIDI ticks to a quarter, 24 to 20160")
    which = parser.add_mutually_exclusive_group()
    which.add_argument("--trust-file", action="store_true", help="take the tempo and bars that a MIDI file states")
    which.add_argument("--ignore-file", action="store_true", help="hear tempo and bars anew, whatever the file states")


def _groove_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("groove", type=Path, help="a project, text grid or MIDI file")


def _show_options(parser: argparse.ArgumentParser) -> None:
    _groove_options(parser)
    parser.add_argument("--diff", type=Path, metavar="OTHER", help="print what is different in another groove instead")
    parser.add_argument("--form", action="store_true", help="print its parts, variations and sections instead")
    parser.add_argument("--describe", action="store_true", help="print it in the sentences a drummer would use instead")


class Asked(argparse.Action):
    """Keeps what --do and --say ask in the order in which it was given, each with its option."""

    def __call__(
        self,
        parser: argparse.ArgumentParser,
        namespace: argparse.Namespace,
        values: object,
        option_string: str | None = None,
    ) -> None:
        given = [*getattr(namespace, self.dest), (option_string or "", str(values))]
        setattr(namespace, self.dest, given)


def _edit_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("groove", type=Path, nargs="?", help="a project, text grid or MIDI file")
    parser.add_argument(
        "--do", action=Asked, dest="asked", default=[], metavar="COMMAND", help="what to do; may stand many times"
    )
    parser.add_argument(
        "--say",
        action=Asked,
        dest="asked",
        metavar="SENTENCE",
        help="what to do, as you would say it to a drummer; in turn with --do",
    )
    parser.add_argument("--degrees", type=Path, metavar="FILE", help="how much a bit and a lot are (docs/guide.md)")
    parser.add_argument("-o", "--out", type=place, metavar="OUT", help="a project, text grid or MIDI file to write")
    parser.add_argument(
        "--beside", action="append", default=[], type=Path, metavar="FILE",
        help="another file, kept as a version under its name: take-over NAME numbers 1 3",
    )  # fmt: skip
    parser.add_argument("--setup", type=Path, metavar="KIT.json", help="where the drums stand (docs/check-format.md)")
    parser.add_argument("--list", action="store_true", help="print every command and end")


def _check_options(parser: argparse.ArgumentParser) -> None:
    _groove_options(parser)
    parser.add_argument("--player", metavar="learner|working|virtuoso", help="who is to play it (working)")
    parser.add_argument("--way", metavar="right-handed|left-handed|open-handed")
    parser.add_argument("--pedals", type=int, choices=(0, 1, 2), help="pedals of the kick (1)")
    parser.add_argument("--setup", type=Path, metavar="KIT.json", help="where the drums stand (docs/check-format.md)")
    parser.add_argument(
        "--allow", action="append", default=[], metavar="loop|machine|two-drummers", help="what the part may be"
    )
    parser.add_argument("--json", type=Path, metavar="OUT", help="write the report; - is standard output")


def _feel_file_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file", type=Path, nargs="?", help="a recording, MIDI file, project, text grid or feel")
    parser.add_argument("-o", "--out", type=place, metavar="OUT.feel.json", help="write the feel")
    parser.add_argument("--list", action="store_true", help="print the feels on the shelf and end")


def _takes_options(parser: argparse.ArgumentParser) -> None:
    _groove_options(parser)
    parser.add_argument("--count", type=int, default=8, metavar="N", help="how many takes")
    parser.add_argument("--midi", type=place, metavar="DIR", required=True, help="the folder for the MIDI files")
    _section_option(parser)
    _felt_options(parser)


def _perform_options(parser: argparse.ArgumentParser) -> None:
    _groove_options(parser)
    parser.add_argument("--midi", type=place, metavar="OUT")
    parser.add_argument("--wav", type=place, metavar="OUT")
    _section_option(parser)
    _felt_options(parser)


def _section_option(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--section", metavar="NAME", help="of a song only this section, the first time it is played")


def _felt_options(parser: argparse.ArgumentParser) -> None:
    """How it is played."""
    parser.add_argument("--feel", metavar="NAME|F.feel.json", help="a player's feel, laid on the groove")
    parser.add_argument("--touch", type=float, metavar="PERCENT", help="how far its touch goes, 0 to 150")
    parser.add_argument("--time", type=float, metavar="PERCENT", help="how far its time goes, 0 to 150")
    parser.add_argument("--swing", metavar="16:0.57", help="unit and share of the first note of a pair")
    parser.add_argument("--lean", metavar="snare=+12,hat=-4", help="ms by voice or group, late positive")
    parser.add_argument("--loose", type=float, metavar="MS", help="spread of the timing in ms")
    parser.add_argument("--take", type=int, metavar="N", help="which of the possible takes")
    parser.add_argument("--tempo", type=float, metavar="BPM")
    parser.add_argument("--division", type=int, default=960, metavar="N", help="MIDI ticks to a quarter, 24 to 20160")
    parser.add_argument("--type", type=int, default=1, choices=(0, 1), help="type of the MIDI file")


def _render_options(parser: argparse.ArgumentParser) -> None:
    _groove_options(parser)
    parser.add_argument("out", type=place, help="a .wav, .flac or .ogg file")
    parser.add_argument("--rate", type=int, default=44100, help="sample rate in Hz")
    parser.add_argument("--tempo", type=float, metavar="BPM", help="another tempo than the groove's")
    parser.add_argument("--repeat", type=int, default=1, metavar="N", help="so many times, one behind the other")
    which = parser.add_mutually_exclusive_group()
    which.add_argument("--loop", action="store_true", help="exactly the loop: what rings over its end is at its start")
    which.add_argument("--tail", action="store_true", help="with what rings on after the end (as without either)")
    _section_option(parser)
    parser.add_argument(
        "--kit", metavar="NAME|KIT.sfz|FOLDER", help="the kit; see ghost-step kits (the groove's own, else depot)"
    )
    parser.add_argument(
        "--bits", default="24", metavar="16|24|32f", help="of a sample; 32f is floating point, for .wav"
    )
    parser.add_argument("--no-dither", action="store_true", help="no noise under the last of 16 bits")
    parser.add_argument(
        "--loudness", type=float, metavar="LUFS", help="bring it to a loudness, as far as its peaks let"
    )
    parser.add_argument("--peak", type=float, metavar="DBTP", help="bring it to a true peak")
    parser.add_argument("--stems", type=place, metavar="DIR", help="also write its parts into this folder, one a file")
    parser.add_argument(
        "--stems-by", default="voice", choices=("voice", "limb", "microphone"), help="what the parts are (voice)"
    )


def _recording_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("recording", type=Path, help="a sound file, or a project with its recording")
    parser.add_argument("--tempo", type=float, metavar="BPM", help="the recording's tempo, where you know it")


def _slice_options(parser: argparse.ArgumentParser) -> None:
    _recording_options(parser)
    parser.add_argument("folder", type=place, metavar="DIR", help="the folder for the pieces")


def _replay_options(parser: argparse.ArgumentParser) -> None:
    _recording_options(parser)
    parser.add_argument("groove", type=Path, help="the groove that is played: a project, text grid or MIDI file")
    parser.add_argument("out", type=place, help="a .wav, .flac or .ogg file")
    parser.add_argument("--to-tempo", type=float, metavar="BPM", help="another tempo than the groove's")
    parser.add_argument(
        "--pitch", default="free", choices=("tied", "free"), help="tied: faster is higher, as on a record player (free)"
    )


def _ports_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--simulate", action="store_true", help="the simulated devices too")


def _record_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("out", type=place, help="a .mid file for a take from an electronic kit, or a sound file")
    parser.add_argument("--from", dest="source", default="simulated", metavar="PORT", help="a port, or: simulated")
    parser.add_argument("--simulate", action="store_true", help="the simulated device, whatever port is named")
    parser.add_argument("--seconds", type=float, metavar="N", help="how long (8)")
    parser.add_argument("--plays", type=Path, metavar="GROOVE", help="what the simulated drummer plays")
    parser.add_argument("--errors", metavar="late=8,spread=12,miss=2%%", help="how the simulated drummer errs")
    parser.add_argument("--at-once", action="store_true", help="the simulated drummer does not take its time")


def _kits_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("kit", nargs="?", metavar="NAME|KIT.sfz|FOLDER", help="a kit to look at")


Work = Callable[[argparse.Namespace], int]


def _listen() -> Work:
    from ghoststep.cli.listening import listen

    return listen


def _perform() -> Work:
    from ghoststep.cli.performing import perform

    return perform


def _takes() -> Work:
    from ghoststep.cli.feeling import takes

    return takes


def _feel() -> Work:
    from ghoststep.cli.feeling import feel

    return feel


def _render() -> Work:
    from ghoststep.cli.rendering import render

    return render


def _kits() -> Work:
    from ghoststep.cli.rendering import kits

    return kits


def _slice() -> Work:
    from ghoststep.cli.slicing import slice_recording

    return slice_recording


def _replay() -> Work:
    from ghoststep.cli.slicing import replay_recording

    return replay_recording


def _ports() -> Work:
    from ghoststep.cli.recording import ports

    return ports


def _record() -> Work:
    from ghoststep.cli.recording import record

    return record


def _show() -> Work:
    from ghoststep.cli.performing import show

    return show


def _check() -> Work:
    from ghoststep.cli.checking import check

    return check


def _edit() -> Work:
    from ghoststep.cli.editing import edit

    return edit


# Name -> what loads the work (its imports are not paid for by other commands) and what adds its options.
_COMMANDS: dict[str, tuple[Callable[[], Work], Callable[[argparse.ArgumentParser], None]]] = {
    "listen": (_listen, _listen_options),
    "perform": (_perform, _perform_options),
    "takes": (_takes, _takes_options),
    "feel": (_feel, _feel_file_options),
    "render": (_render, _render_options),
    "kits": (_kits, _kits_options),
    "slice": (_slice, _slice_options),
    "replay": (_replay, _replay_options),
    "ports": (_ports, _ports_options),
    "record": (_record, _record_options),
    "show": (_show, _show_options),
    "edit": (_edit, _edit_options),
    "check": (_check, _check_options),
}
