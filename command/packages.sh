# install_packages NAME…: installs Debian packages if this user may, otherwise says plainly what to do.
# Sourced by ./heron and run by command/machine.py, so that there is one way of doing it.
install_packages() {
  local as_root="" no_cluster="/etc/postgresql-common/createcluster.d/calm-heron.conf"
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
  printf 'Installing %s from your system'\''s packages.\n' "$*" >&2
  # Debian makes and starts a database of its own when PostgreSQL comes in. We have no use for it, so while we install it is told not to.
  case " $* " in *" postgresql"*)
    $as_root mkdir -p "${no_cluster%/*}" && printf 'create_main_cluster = false\n' | $as_root tee "$no_cluster" >/dev/null ;;
  esac
  install_now() { $as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "$@" </dev/null; }
  local done=0
  if ! install_now "$@" >/dev/null 2>&1; then
    $as_root apt-get update -qq </dev/null >/dev/null 2>&1 || true
    install_now "$@" >/dev/null || done=1
  fi
  $as_root rm -f "$no_cluster"
  if [ "$done" != 0 ]; then
    printf 'The packages %s could not be installed. Run  apt-get install %s  by hand to see why, then start again.\n' "$*" "$*" >&2
  fi
  return "$done"
}
if [ "${BASH_SOURCE[0]}" = "$0" ]; then install_packages "$@"; fi
