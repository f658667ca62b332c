# Functions that run and check share. Sourced, not run.
set -o pipefail # a build that fails is seen through the pipe that shows its progress

# install_packages LIST...: installs what is missing; needs apt-get and root, or sudo.
install_packages() {
    local missing=() package
    while read -r package; do
        case "$package" in ''|'#'*) continue ;; esac
        dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q 'install ok installed' || missing+=("$package")
    done < <(cat "$@")
    [ ${#missing[@]} -eq 0 ] && return 0
    echo "installing: ${missing[*]}"
    local as_root=()
    if [ "$(id -u)" -ne 0 ]; then
        if ! command -v sudo >/dev/null; then
            echo "These packages are missing: ${missing[*]}. Install them as root with apt-get install." >&2
            return 1
        fi
        as_root=(sudo)
    fi
    "${as_root[@]}" apt-get update -qq >/dev/null || true
    DEBIAN_FRONTEND=noninteractive "${as_root[@]}" apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
}

# sources [PATTERN...]: the files of the project, by git where this is a checkout, else those that are there.
sources() {
    if git rev-parse --is-inside-work-tree >/dev/null 2>&1; then
        git ls-files --cached --others --exclude-standard "$@"
    else
        local pattern
        for pattern in "$@"; do
            find . -path ./build -prune -o -name "${pattern##*/}" -path "./${pattern%%\**}*" -print | sed 's|^[.]/||'
        done
    fi
}

# shows_progress LABEL: reads what ninja says (with NINJA_STATUS below), and says how far it is and how long it still takes:
# on a terminal in one line that is written over, else a line each tenth. Quiet when there is little to do.
shows_progress() {
    local terminal=no
    [ -t 2 ] && terminal=yes
    awk -v label="$1" -v terminal="$terminal" '
        BEGIN { told = 0 }
        match($0, /^@[0-9]+ [0-9]+ [0-9.]+@/) {
            split(substr($0, 2, RLENGTH - 2), at, " ")
            done = at[1]; all = at[2]; seconds = at[3]
            if (all < 4 || seconds < 2) next
            percent = int(100 * done / all)
            left = seconds * (all - done) / done
            text = sprintf("%s: step %d of %d, %d %%, %s left", label, done, all, percent,
                           left < 90 ? int(left + 1) " s" : int(left / 60 + 0.5) " min")
            if (terminal == "yes") { printf "\r\033[K%s", text > "/dev/stderr"; told = 1 }
            else if (percent >= told + 10) { print text > "/dev/stderr"; told = percent - percent % 10 }
        }
        END { if (terminal == "yes" && told) printf "\r\033[K" > "/dev/stderr" }'
}

# A miss then costs no run of the preprocessor: ccache takes what the compiler writes for ninja (-MD).
export CCACHE_DEPEND=1

# build PRESET [CMAKE ARGS...]: configures and builds, all or the targets named in $targets; shows how far it is, and prints
# the rest only when something fails.
build() {
    local preset=$1 log
    shift
    log=$(mktemp)
    # shellcheck disable=SC2086 # targets is a list
    if ! { cmake --preset "$preset" "$@" >"$log" 2>&1 &&
        NINJA_STATUS='@%f %t %e@ ' cmake --build --preset "$preset" ${targets:+--target $targets} 2>&1 | tee -a "$log" |
        shows_progress "building ($preset)"; }; then
        cat "$log" >&2
        rm -f "$log"
        echo "The build of preset $preset failed; the reason stands above." >&2
        return 1
    fi
    rm -f "$log"
}
