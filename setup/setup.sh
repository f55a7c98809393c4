#!/usr/bin/env bash
# Brings a machine to the point where Ghost Step runs: system packages, virtual environment, locked packages.
#   setup/setup.sh run     what the program needs
#   setup/setup.sh test    that, and what the checks need
# A second call with nothing changed only compares a checksum.
set -eu
cd "$(dirname "$0")/.."
goal="${1:-run}"
venv=".venv"
say() { printf 'setup: %s\n' "$*"; }

missing_packages() {
    local kind probe package known
    known="$(PATH="$PATH:/sbin:/usr/sbin" ldconfig -p 2>/dev/null || true)"
    grep -v '^#' setup/system-packages.txt | while read -r kind probe package; do
        case "$kind" in
            lib) case "$known" in *"$probe"*) ;; *) echo "$package" ;; esac ;;
            test) [ "$goal" != test ] || command -v "$probe" >/dev/null 2>&1 || echo "$package" ;;
        esac
    done
    # Debian ships Python without the part that makes virtual environments.
    [ -x "$venv/bin/python" ] || python3 -c 'import ensurepip' 2>/dev/null || echo python3-venv
}

install_system_packages() {
    local wanted root=""
    wanted="$(missing_packages | tr '\n' ' ')"
    [ -n "${wanted// /}" ] || return 0
    if [ "$(id -u)" != 0 ]; then
        if command -v sudo >/dev/null 2>&1 && sudo -n true 2>/dev/null; then root="sudo"; else root="no"; fi
    fi
    if [ "$root" = no ] || ! command -v apt-get >/dev/null 2>&1; then
        say "these system packages are missing and cannot be installed from here: $wanted"
        say "please run:  sudo apt-get install --no-install-recommends $wanted"
        exit 1
    fi
    say "installing system packages: $wanted"
    # An old package list is the usual reason for a first failure, so refresh it only when needed.
    install="$root env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $wanted"
    if ! $install >build/apt.log 2>&1; then
        { $root apt-get update -qq && $install; } >build/apt.log 2>&1 || {
            tail -5 build/apt.log
            say "apt could not install them; the whole output is in build/apt.log"
            exit 1
        }
    fi
}

python_for_us() {
    local name
    for name in python3 python3.13 python3.12 python3.11; do
        if "$name" -c 'import sys; sys.exit(not (3, 11) <= sys.version_info < (3, 14))' 2>/dev/null; then
            echo "$name"
            return 0
        fi
    done
    say "Python 3.11, 3.12 or 3.13 is needed and none was found. Please run:  sudo apt-get install python3" >&2
    return 1
}

mkdir -p build
case "$goal" in
    run) lock=setup/requirements.txt ;;
    test) lock=setup/requirements-dev.txt ;;
    *) say "unknown goal '$goal': use run or test"; exit 2 ;;
esac
install_system_packages
# The stamp covers the place too: a virtual environment that was moved or copied does not work.
stamp="$(cat "$lock" pyproject.toml setup/setup.sh; pwd)"
stamp="$(printf '%s' "$stamp" | sha256sum | cut -d' ' -f1)"
[ "$(cat "$venv/.stamp-$goal" 2>/dev/null || true)" != "$stamp" ] || exit 0
if ! "$venv/bin/python" -c '' 2>/dev/null; then
    say "making the virtual environment in $venv"
    rm -rf "$venv"
    "$(python_for_us)" -m venv "$venv"
fi
say "installing the locked packages (half a minute the first time)"
# To compile all of them ahead takes as long as to install them, and the checks import few: they compile what they need.
compile=--compile
[ "$goal" != test ] || compile=--no-compile
"$venv/bin/python" -m pip install -q --disable-pip-version-check "$compile" --require-hashes -r "$lock"
"$venv/bin/python" -m pip install -q --disable-pip-version-check --no-deps --no-build-isolation -e .
# Our own is compiled ahead, so that the first start is as quick as the second, also where Python may not write beside it.
"$venv/bin/python" -m compileall -q -j 0 src
printf '%s' "$stamp" >"$venv/.stamp-$goal"
say "ready"
