# Sourced by ./demo and ./test: system libraries and the virtual environment, only what is missing.

system_packages="libglib2.0-0 libgl1 libegl1 libxkbcommon0 libfontconfig1 libdbus-1-3 libxcb-cursor0 \
libxcb-icccm4 libxcb-keysyms1 libxcb-shape0 libxcb-xkb1 libxkbcommon-x11-0 libxcb-randr0 \
libxcb-render-util0 libxcb-image0 libportaudio2 libasound2-plugins"
system_libraries="libglib-2.0.so.0 libGL.so.1 libEGL.so.1 libxkbcommon.so.0 libfontconfig.so.1 \
libdbus-1.so.3 libxcb-cursor.so.0 libxcb-icccm.so.4 libxcb-keysyms.so.1 libxcb-shape.so.0 \
libxcb-xkb.so.1 libxkbcommon-x11.so.0 libxcb-randr.so.0 libxcb-render-util.so.0 libxcb-image.so.0 \
libportaudio.so.2"

set_up_system() {
    local known missing="" lib
    known=$({ ldconfig -p || /sbin/ldconfig -p; } 2>/dev/null || true)
    for lib in $system_libraries; do
        case "$known" in *"$lib "*) ;; *) missing="$missing $lib" ;; esac
    done
    [ -z "$missing" ] && return 0
    echo "missing system libraries:$missing"
    if ! command -v apt-get >/dev/null; then
        echo "please install them with your package manager (Debian names: $system_packages)" >&2
        return 0
    fi
    local as_root=""
    if [ "$(id -u)" != 0 ]; then
        if ! command -v sudo >/dev/null || { [ ! -t 0 ] && ! sudo -n true 2>/dev/null; }; then
            echo "please run: apt-get install --no-install-recommends $system_packages" >&2
            return 0
        fi
        as_root=sudo
    fi
    echo "installing them"
    $as_root apt-get update -qq </dev/null
    # shellcheck disable=SC2086
    DEBIAN_FRONTEND=noninteractive $as_root apt-get install -y -qq --no-install-recommends \
        $system_packages </dev/null >/dev/null
}

# A sound server without hardware for the recording test; the test is skipped where it is missing.
set_up_sound_server() {
    command -v pulseaudio >/dev/null && command -v pactl >/dev/null && return 0
    if ! command -v apt-get >/dev/null || [ "$(id -u)" != 0 ]; then
        echo "no sound server for the recording test (Debian: pulseaudio pulseaudio-utils)" >&2
        return 0
    fi
    echo "installing a sound server for the recording test"
    apt-get update -qq </dev/null >/dev/null 2>&1 || true
    DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends \
        pulseaudio pulseaudio-utils </dev/null >/dev/null 2>&1 ||
        echo "it could not be installed: the recording test will be skipped" >&2
}

# set_up_python app|test
set_up_python() {
    local kind=$1 python="" candidate stamp wanted
    stamp=".venv/.set-up-$kind"
    wanted=$(cat requirements/app.txt "requirements/$kind.txt" requirements/scores.txt pyproject.toml | cksum)
    if [ -x .venv/bin/python ] && [ "$(cat "$stamp" 2>/dev/null)" = "$wanted" ]; then
        return 0
    fi
    for candidate in python3.13 python3.12 python3.11 python3; do
        if command -v "$candidate" >/dev/null &&
            "$candidate" -c 'import sys; sys.exit(sys.version_info < (3, 11))' 2>/dev/null; then
            python=$candidate
            break
        fi
    done
    if [ -z "$python" ]; then
        echo "Python 3.11 or newer is needed" >&2
        return 1
    fi
    if [ ! -x .venv/bin/python ]; then
        echo "making .venv"
        "$python" -m venv .venv
    fi
    echo "installing Python packages ($kind)"
    .venv/bin/python -m pip install --quiet --disable-pip-version-check "setuptools==$(sed -n 's/^setuptools==//p' requirements/test.txt)"
    .venv/bin/python -m pip install --quiet --disable-pip-version-check -r "requirements/$kind.txt"
    if [ "$kind" = test ]; then # real scores to read; only its files are used, so without what it needs
        .venv/bin/python -m pip install --quiet --disable-pip-version-check --no-deps -r requirements/scores.txt
    fi
    .venv/bin/python -m pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation -e .
    echo "$wanted" >"$stamp"
}
