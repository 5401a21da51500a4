# Collects raw facts for "bradawl survey": reads only, writes nothing, leaves
# nothing behind. For any POSIX shell (dash, busybox) as any user. Its output
# goes to "bradawl survey --from-collected", which makes a record of it.
LC_ALL=C; export LC_ALL; umask 077
PATH=$PATH:/usr/sbin:/usr/bin:/sbin:/bin; export PATH
if command -v base64 >/dev/null 2>&1; then
    enc() { base64 | tr -d '\n'; }; how=base64
else
    enc() { od -An -v -tx1 | tr -d ' \n'; }; how=hex
fi
# Paths go as they are when they are tame, else encoded behind "=".
name() { case $1 in *[!A-Za-z0-9/._:@+,-]*) printf =; printf %s "$1" | enc ;; *) printf %s "$1" ;; esac; }
row() { printf '%s ' "$1"; name "$2"; }
why() { case $1 in *'o such file'*) echo absent ;; *ermission*) echo denied ;; *) echo failed ;; esac; }
# st PATH: what is there. get PATH: its bytes. names FOLDER: what is in it.
st() {
    if s=$(stat -Lc '%f %u %g %s %b %Y' "$1" 2>&1); then row s "$1"; echo " $s"; else row x "$1"; echo " $(why "$s")"; fi
}
get() {
    if [ ! -e "$1" ]; then st "$1"; return; fi
    if [ ! -f "$1" ]; then row x "$1"; echo ' failed'; return; fi
    if [ ! -r "$1" ]; then row x "$1"; echo ' denied'; return; fi
    row f "$1"; printf ' '; head -c 16777217 "$1" 2>/dev/null | enc; echo
}
names() {
    if [ ! -d "$1" ]; then st "$1"; return; fi
    if [ ! -r "$1" ]; then row x "$1"; echo ' denied'; return; fi
    row d "$1"; printf ' '; ls -A "$1" 2>/dev/null | grep "${2:-.}" | enc; echo
}
fill() { if [ -d "$1" ] && [ -r "$1" ]; then row c "$1"; echo " $(ls -A "$1" 2>/dev/null | head -n 1001 | wc -l)"; else st "$1"; fi; }
real() { if r=$(readlink -f "$1" 2>/dev/null) && [ -n "$r" ]; then row l "$1"; printf ' '; name "$r"; echo; else row x "$1"; echo ' failed'; fi; }
# by DEVICE OFFSET LENGTH, both in pages of 4096 bytes.
by() {
    [ -r "$1" ] || { row x "$1"; echo ' denied'; return; }
    row b "$1"; printf ' %s ' "$2"; dd if="$1" bs=4096 skip="$2" count="$3" 2>/dev/null | enc; echo
}
# whole PATH: what is there, where it leads, how much is in it. swapfile PATH:
# the same for swap, with its first bytes.
whole() { st "$1"; [ -e "$1" ] && real "$1"; [ -d "$1" ] && fill "$1"; }
swapfile() { st "$1"; if [ -f "$1" ]; then real "$1"; by "$1" 0 17; flags "$1"; fi; }
# within FUNCTION PATH: runs it for two seconds at most, in a process of its own:
# what lies on a file system that does not answer is not waited for.
within() {
    case $2 in /sys/* | /proc/* | /dev/* | /run/*) "$@"; return ;; esac
    (o=$("$@" 2>/dev/null); [ -z "$o" ] || printf '%s\n' "$o") & asked=$!
    (exec >/dev/null 2>&1 </dev/null; sleep 2; kill -9 $asked) & guard=$!
    wait $asked 2>/dev/null || { row x "$2"; echo ' silent'; }
    kill $guard 2>/dev/null; wait $guard 2>/dev/null
}
room() { if s=$(stat -f -c '%a %S' "$1" 2>/dev/null); then row r "$1"; echo " $s"; fi; }
flags() {
    if s=$(lsattr -d "$1" 2>/dev/null); then row n "$1"; case ${s%% *} in *C*) echo ' yes' ;; *) echo ' no' ;; esac; fi
    if s=$(filefrag -v "$1" 2>/dev/null); then row h "$1"; case $s in *shared*) echo ' yes' ;; *) echo ' no' ;; esac; fi
}
