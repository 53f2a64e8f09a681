#!/usr/bin/env bash
# Takes a picture of each main command in a real terminal window of 1280x800 pixels.
#   make screenshots
# Needs Xvfb, xterm, xdotool, ImageMagick and Chromium; on Debian they are installed if missing (as root).
set -euo pipefail
cd "$(dirname "$0")/.."
need=()
command -v Xvfb >/dev/null || need+=(xvfb)
command -v xterm >/dev/null || need+=(xterm)
command -v xdotool >/dev/null || need+=(xdotool)
command -v import >/dev/null || need+=(imagemagick)
command -v chromium >/dev/null || need+=(chromium)
[ ${#need[@]} -eq 0 ] || { apt-get update -qq && apt-get install -y -qq "${need[@]}" fonts-dejavu-core; }

bin=$PWD/.venv/bin
out=$PWD/docs/screenshots
work=$(mktemp -d)
"$bin/python" -m even_sieve.demo.make "$work"
export DISPLAY=:87
Xvfb "$DISPLAY" -screen 0 1280x800x24 -nolisten tcp >/dev/null 2>&1 &
server=$!
trap 'kill $server; rm -rf "$work"' EXIT
sleep 1

marks='--subtotal "vessel = Month total*" --hidden "status = withdrawn"'
next=$' \\\n      '

# NAME SIZE COMMAND…: shows each command at a prompt, runs it, and takes the picture.
shoot() {
  local name=$1 size=$2 command
  shift 2
  {
    printf 'cd "%s"; export PATH="%s:$PATH" TERM=xterm-256color COLORTERM=truecolor; clear\n' "$work" "$bin"
    for command; do
      printf "printf '\\\\033[1;34m\$\\\\033[0m %%s\\\\n' %q\n" "$command"
      printf '%s\n' "$command"
    done
    printf "printf '\\\\033[1;34m\$\\\\033[0m '; touch '%s/done'; sleep 60\n" "$work"
  } >"$work/show"
  rm -f "$work/done"
  local geometry=125x39+0+0
  [ "$size" = 11 ] && geometry=139x42+0+0
  xterm -fa 'DejaVu Sans Mono' -fs "$size" -geometry "$geometry" -bg '#fbfaf7' -fg '#1f2328' \
    -b 12 -e bash "$work/show" &
  local terminal=$!
  for _ in $(seq 100); do [ -e "$work/done" ] && break; sleep 0.1; done
  sleep 0.6
  import -window root "$out/$name.png"
  kill $terminal; wait $terminal 2>/dev/null || true
}

table='even-sieve tally calls.csv rows "sum of dues" "average of dues"'
shoot demo 11 'FORCE_COLOR=1 even-sieve demo | head -39'
shoot tally 12 "$table \"max of dues\"$next$marks$next--where \"zone = Outer and arrived in 2031-Q1\""
shoot by 12 "$table \"late = sum of dues where status = late\"$next$marks --by zone"
shoot across 12 "even-sieve tally calls.csv \"sum of dues\" $marks$next--by zone --across \"arrived by quarter\"" \
  "even-sieve tally calls.csv rows \"sum of dues\" \"share of dues\"$next$marks --by vessel --sort \"sum of dues desc\" --top 6"
shoot explain 12 "even-sieve tally calls.csv \"sum of dues\" $marks$next--where \"zone = Outer and arrived in 2031-Q1\" --explain --recheck"
shoot bridge 12 "even-sieve bridge calls.csv \"sum of dues\" $marks$next--where \"zone = Outer and arrived in 2031-Q1\" --chart dues.png" \
  "even-sieve tally calls.csv \"all of dues\" $marks$next--where \"zone = Outer\""
cp "$work/dues.png" "$out/bridge-chart.png"
"$bin/python" - "$work/harbour.ods" "$out/two-axes.png" <<'END'
import sys

from even_sieve import read_table

calls = read_table(sys.argv[1])
calls.tally("sum of dues", by="zone", across="arrived by month").write_chart(sys.argv[2])
END
NO_MKDOCS_2_WARNING=1 "$bin/mkdocs" build --quiet --site-dir "$work/site"
chromium --headless --no-sandbox --disable-gpu --hide-scrollbars --window-size=1280,800 \
  --screenshot="$out/reference.png" "file://$work/site/api/answers.html" >/dev/null 2>&1
"$bin/even-sieve" run "$work/harbour.toml" >/dev/null
# The first figure stands open, to show what is behind each.
sed '0,/<details>/s//<details open>/' "$work/harbour.html" >"$work/open.html"
chromium --headless --no-sandbox --disable-gpu --hide-scrollbars --window-size=1280,800 \
  --screenshot="$out/page.png" "file://$work/open.html" >/dev/null 2>&1
shoot run 11 'even-sieve run harbour.toml --set quarter=2031-Q2 --to out | head -36'
shoot nothing 12 'even-sieve tally calls.csv "sum of dues" --where "zone = Outr and dues > 500"' \
  'even-sieve tally calls.csv "sum of dues" --where "zone = Outer and tonnage < 100 and dues > 900"' \
  'even-sieve tally calls.csv "sum of duse"' \
  'even-sieve tally calls.csv rows --where "vessel begins with B"'
shoot check 12 'even-sieve check calls.csv'
shoot rows 11 "even-sieve rows calls.csv $marks$next--where \"zone = Outer and dues > 800\" --sort \"dues desc\" --limit 12"
shoot rows-all 12 "even-sieve rows calls.csv $marks$next--where \"zone = Outer and dues > 300\" --all --columns call,zone,vessel,dues,status --limit 26"

# A trial: keys are pressed once the screen stands.
{
  printf 'cd "%s"; export PATH="%s:$PATH" TERM=xterm-256color COLORTERM=truecolor\n' "$work" "$bin"
  printf 'even-sieve try calls.csv rows "sum of dues" "average of dues" %s\n' "$marks"
} >"$work/show"
xterm -fa 'DejaVu Sans Mono' -fs 12 -geometry 127x39+0+0 -bg '#12191d' -b 0 -e bash "$work/show" &
terminal=$!
sleep 4
press() { for key; do xdotool key "$key"; sleep 0.3; done; }
press Tab O u Down Return Tab Tab 2 0 3 1 minus q
sleep 1
press Down Return Escape
sleep 1
import -window root "$out/try.png"
kill $terminal
