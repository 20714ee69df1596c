# install_packages NAME…: installs Debian packages if this user may, otherwise says plainly what to do.
# Sourced by ./heron and run by command/machine.py, so that there is one way of doing it.
install_packages() {
  local as_root=""
  if ! command -v apt-get >/dev/null 2>&1; then
    printf 'Missing on this machine: %s. There is no apt-get here; install the same with its own package manager, then start again.\n' "$*" >&2
    return 1
  fi
  if [ "$(id -u)" != 0 ]; then
    if command -v sudo >/dev/null 2>&1 && sudo -n true 2>/dev/null; then
      as_root="sudo -n"
    else
      printf 'Missing on this machine: %s. You may not install packages; ask someone who may to run\n  sudo apt-get install --no-install-recommends %s\nthen start again.\n' "$*" "$*" >&2
      return 1
    fi
  fi
  printf 'Installing %s.\n' "$*" >&2
  if ! $as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "$@" </dev/null >/dev/null 2>&1; then
    $as_root apt-get update -qq </dev/null >/dev/null 2>&1 || true
    $as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "$@" </dev/null >/dev/null || {
      printf 'The packages %s could not be installed. Run  apt-get install %s  by hand to see why, then start again.\n' "$*" "$*" >&2
      return 1
    }
  fi
}
if [ "${BASH_SOURCE[0]}" = "$0" ]; then install_packages "$@"; fi
