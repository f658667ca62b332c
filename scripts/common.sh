# Functions that run and check share. Sourced, not run.

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

# build PRESET [CMAKE ARGS...]: configures and builds, all or the targets named in $targets; prints only when
# something fails.
build() {
    local preset=$1 log
    shift
    log=$(mktemp)
    # shellcheck disable=SC2086 # targets is a list
    if ! { cmake --preset "$preset" "$@" && cmake --build --preset "$preset" ${targets:+--target $targets}; } >"$log" 2>&1; then
        cat "$log" >&2
        rm -f "$log"
        echo "The build of preset $preset failed; the reason stands above." >&2
        return 1
    fi
    rm -f "$log"
}
