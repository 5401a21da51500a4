#!/bin/sh
# Judges this host's next boot after something changed, and says it where administrators look: the journal, the message
# at login, the terminals of those who are logged in, and, for bradawl-guard.path, /run/bradawl/stops.
# usage: watch table     after a table changed: the service's own run, its status is the audit's
#        watch upgrade   after packages changed: at once if no kernel, init system or mount program did
set -u
bradawl=/usr/bin/bradawl
state=/run/bradawl
umask 022
mkdir -p "$state"

# What decides how a table is read, beside the table itself.
versions() {
    ls /lib/modules 2>/dev/null
    ls -lLi --time-style=full-iso /sbin/init /bin/mount /usr/sbin/mkinitramfs /usr/bin/dracut /boot 2>/dev/null
}

if [ "${1-}" = upgrade ]; then
    now=$(versions | cksum)
    [ "$now" != "$(cat "$state/versions" 2>/dev/null)" ] || exit 0
    echo "$now" >"$state/versions"
    # The kernel that boots next is not the one that runs.
    newest=$(find /lib/modules -mindepth 1 -maxdepth 1 -printf '%f\n' 2>/dev/null | sort -V | tail -n 1)
    set -- upgrade ${newest:+--what-if "kernel $newest"}
fi
change=${1-table}
[ $# -eq 0 ] || shift

said=$("$bradawl" audit --quiet --fail-on halt "$@")
status=$?
case $status in
    0) boot=sound priority=6 ;;
    1) boot=stops priority=2 ;;
    3) boot=not-known priority=4 ;;
    *) boot=not-judged priority=3 said='bradawl could not judge the next boot: see bradawl audit' ;;
esac
printf 'MESSAGE=%s\nPRIORITY=%s\nSYSLOG_IDENTIFIER=bradawl\nBRADAWL_BOOT=%s\nBRADAWL_CHANGED=%s\n' \
    "$said" $priority $boot "$change" | logger --journald 2>/dev/null || logger -t bradawl -- "$said"

if [ $boot = stops ]; then
    [ -e "$state/stops" ] || printf '%s\n' "$said" "See: bradawl audit" | wall 2>/dev/null
    printf '%s\n' "$said" >"$state/stops.new" && mv "$state/stops.new" "$state/stops"
    mkdir -p /run/motd.d && printf '%s\nSee: bradawl audit\n' "$said" >/run/motd.d/bradawl
    [ "$change" = table ] || printf '%s\n' "$said"
elif [ $boot = sound ] || [ $boot = not-known ]; then
    rm -f "$state/stops" /run/motd.d/bradawl
fi

# The findings go to the journal of the service, which fails where the boot would stop or wait.
[ "$change" != table ] || exec "$bradawl" audit --fail-on stall --min missing --no-pager
