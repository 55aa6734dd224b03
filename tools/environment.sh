# Makes .venv from the lock file $lock, when it is not there or the lock has changed. Sourced by ./start and ./test.

python=${PYTHON:-python3}

say() { printf '%s\n' "$*"; }

if ! command -v "$python" >/dev/null 2>&1; then
    if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1; then
        say "Installing Python (Debian's python3 and python3-venv) ..."
        apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq python3 python3-venv >/dev/null ||
            { say "Python could not be installed. Check the network, then run this again."; exit 1; }
    else
        say "Python 3.11 or newer is needed. Install it (on Debian: apt-get install python3 python3-venv), then run this again."
        exit 1
    fi
fi
"$python" -c 'import sys; sys.exit(sys.version_info < (3, 11))' || {
    say "Python 3.11 or newer is needed; $python is $("$python" --version). Set PYTHON=/path/to/a/newer/python."
    exit 1
}
mkdir -p .data
stamp=.data/venv-$(basename "$lock" .lock)
want="$(cat requirements-test.lock requirements.lock pyproject.toml | cksum) $("$python" --version) $(pwd)"
if [ ! -x .venv/bin/python ] || { [ "$(cat "$stamp" 2>/dev/null)" != "$want" ]; }; then
    if ! "$python" -c 'import ensurepip, venv' 2>/dev/null; then
        if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1; then
            say "Installing Debian's python3-venv ..."
            apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq python3-venv >/dev/null ||
                { say "python3-venv could not be installed. Check the network, then run this again."; exit 1; }
        else
            say "Python's venv module is missing. Install it (on Debian: apt-get install python3-venv), then run this again."
            exit 1
        fi
    fi
    say "Setting up Python packages from $lock (once, a minute or two) ..."
    [ -x .venv/bin/python ] || "$python" -m venv .venv
    {
        if .venv/bin/python -m pip install --disable-pip-version-check --no-input --progress-bar off -r "$lock" 2>&1
        then echo done >.data/pip-status
        else echo failed >.data/pip-status
        fi
    } | tee .data/pip.log | sed -n 's/^Collecting \([^ ]*\).*/  \1/p;s/^Installing collected.*/  installing .../p'
    if [ "$(cat .data/pip-status)" != done ]; then
        say "The Python packages could not be installed. The last words (all in .data/pip.log):"
        grep -E '^(ERROR|WARNING)' .data/pip.log | cut -c1-200 | tail -n 3
        say "If that is the network, check it and run this again: what is there already is kept."
        exit 1
    fi
    # The project itself, in place: its command and its metadata.
    .venv/bin/python -m pip install --disable-pip-version-check -q --no-deps --no-build-isolation -e . >>.data/pip.log 2>&1 ||
        .venv/bin/python -m pip install --disable-pip-version-check -q --no-deps -e . >>.data/pip.log 2>&1 ||
        { say "The project could not be installed into .venv:"; tail -n 3 .data/pip.log; exit 1; }
    printf '%s' "$want" >"$stamp"
fi
# The project's own files as bytecode, also where Python is told to write none: commands begin twice as fast.
.venv/bin/python -m compileall -q src || { say "The project's files could not be compiled."; exit 1; }
