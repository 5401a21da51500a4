#!/bin/bash
# screenshots.sh: the pictures in docs/screenshots, from the demo data, in a terminal window under a virtual display.
# Needs Debian's xvfb, xterm, imagemagick, fonts-dejavu-core.
set -eu
cd "$(dirname "$0")/.."
cargo build --release --quiet
export PATH="$PWD/target/release:$PATH" DISPLAY=:77 BRADAWL_PAGER=cat
Xvfb :77 -screen 0 1280x1000x24 > /dev/null 2>&1 & SERVER=$!
trap 'kill $SERVER' EXIT
sleep 1
shot() { # NAME ROWS COMMAND [WHAT REALLY RUNS]
    printf 'clear; printf "\\033[1m$ %%s\\033[0m\\n" %q; %s; sleep 60\n' "$3" "${4:-$3}" > "/tmp/shot-$$"
    xterm -fa 'DejaVu Sans Mono' -fs 11 -geometry "${COLUMNS_SHOWN:-88}x$2+0+0" -bg '#101418' -fg '#d8dee4' \
        -e bash "/tmp/shot-$$" & local term=$!
    sleep "${PAUSE:-2}"
    import -window root "/tmp/shot-$$.png"
    convert "/tmp/shot-$$.png" -bordercolor black -trim +repage -strip -colors 64 "docs/screenshots/$1.png"
    kill $term || true; rm -f "/tmp/shot-$$" "/tmp/shot-$$.png"
}
mkdir -p docs/screenshots
shot demo 50 'bradawl demo --color always | head -47'
shot audit 26 'bradawl audit demo/mooring.json'
printf '#!/bin/sh\nsed -i "s/noatime/noatme/" "$1"\n' > "/tmp/editor-$$"; chmod +x "/tmp/editor-$$"
python3 -c 'import json; print(json.load(open("demo/quayside.json"))["tables"][0]["text"], end="")' > /tmp/fstab
EDITOR="/tmp/editor-$$" shot edit 40 'bradawl edit fstab --host quayside.json' 'bradawl edit /tmp/fstab --host demo/quayside.json'
shot trend 34 'bradawl trend demo/surveys'
shot options 54 'bradawl options vfat --kernel 6.1 | head -50'
shot forecast 38 'bradawl forecast demo/mooring.json'
shot hindsight 26 'bradawl hindsight demo/archive.json'
shot devices 34 'bradawl devices demo/quayside.json'
shot resolve 34 'bradawl resolve --host demo/quayside.json LABEL=tides UUID=f02d6c9a-18e5-4b73-a4c1-8d5e7092b3f7 6a1c0f3e /dev/sdc'
shot mend 40 'bradawl mend demo/mooring.json'
shot draft 52 'bradawl draft 4T /srv/new --host demo/quayside.json --type xfs --for backup --owner tide'
shot swap 28 'bradawl swap demo/archive.json'
shot layout 20 'bradawl layout demo/layout.toml demo/fleet'
shot fleet 24 'bradawl audit demo/fleet --summary'
shot compare 36 'bradawl compare --group demo/fleet'
# A made-up host on loop devices, with mounts and a name of its own; needs root.
cat > "/tmp/host-$$" <<'HOST'
hostname sounding; mount -t tmpfs tmpfs /srv; mkdir -p /srv/depths /srv/model /srv/tmp; cd /srv
for name in depths model; do truncate -s 400M $name.img; done
mkfs.xfs -qL depths depths.img; mkfs.ext4 -qL model model.img
a=$(losetup -f --show depths.img); b=$(losetup -f --show model.img); trap 'losetup -d $a $b' EXIT
sed 's/^ *//' > table <<TABLE
LABEL=depths    /srv/depths  ext4   noatime,nofail             0 2
LABEL=model     /srv/model   ext4   noatime,errors=remount     0 2
LABEL=model     /srv/model   ext4   noatime,data=journal       0 2
LABEL=depths    /srv/depths  xfs    noatime,logbsize=64k       0 0
tmpfs           /srv/tmp     tmpfs  size=64M,nosuid,nodev      0 0
LABEL=shallows  /srv/old     ext4   nofail                     0 2
TABLE
bradawl rehearse --table table
HOST
PAUSE=6 shot rehearse 36 "bradawl rehearse --table table" "unshare -mu bash /tmp/host-$$"
rm -f "/tmp/host-$$"
# A page in a browser; needs Debian's chromium.
bradawl audit demo/mooring.json --format html > "/tmp/page-$$.html" || true
chromium --headless --no-sandbox --hide-scrollbars --window-size=1280,1500 --screenshot="/tmp/page-$$.png" \
    "file:///tmp/page-$$.html" > /dev/null 2>&1
convert "/tmp/page-$$.png" -strip -colors 64 docs/screenshots/host-page.png
bradawl devices demo/stack/breakwater.json --format html > "/tmp/page-$$.html"
chromium --headless --no-sandbox --hide-scrollbars --window-size=1280,800 --screenshot="/tmp/page-$$.png" \
    "file:///tmp/page-$$.html" > /dev/null 2>&1
convert "/tmp/page-$$.png" -strip -colors 64 docs/screenshots/stack.png
rm -f "/tmp/page-$$.html" "/tmp/page-$$.png"
lab/check-page.sh target/release/bradawl demo/fleet docs/screenshots/fleet-page.png
