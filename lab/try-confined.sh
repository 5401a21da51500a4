#!/bin/bash
# try-confined.sh TREE: puts a hostile generator into a copy of a runnable root directory, has `--ask-generator always` run
# it as root and as an ordinary user, and says what it could do: nothing but write what it is asked for. Root, and TREE on a
# file system that takes hard links.
set -eu
cd "$(dirname "$0")/.."
BRADAWL=$(realpath "${BRADAWL:-target/release/bradawl}")
W=$(mktemp -d "$(dirname "$1")/confined-XXXX"); trap 'rm -rf "$W"' EXIT
chmod 755 "$W"; cp -al "$1" "$W/root"; install -m 755 "$BRADAWL" "$W/bradawl"
G=$W/root/usr/lib/systemd/system-generators/systemd-fstab-generator; rm "$G"
cat > "$G" <<'S'
#!/bin/sh
# SYSTEMD_FSTAB
exec > "$1/probe.mount" 2>/dev/null
echo "After=user-$(id -u)"
echo "After=processes-$(ls /proc | grep -c '^[0-9]')"
n=0; for p in $(seq 2 40000); do kill -0 "$p" && n=$((n + 1)); done; echo "After=signalled-$n"
(echo x > /etc/hostile) && echo After=WROTE-ROOT
mount -t tmpfs x /mnt && echo After=MOUNTED
chroot /srv /bin/true && echo After=CHANGED-ROOT
S
chmod 755 "$G"; echo 'LABEL=a /srv/a ext4 defaults 0 2' > "$W/table"; bad=0
for who in 0 65533; do
    said=$(setpriv --reuid $who --regid $who --clear-groups "$W/bradawl" audit "$W/root" --table "$W/table" --ask-generator always \
        --only generator-differs --format json || true)
    did=$(echo "$said" | grep -o 'After=[A-Za-z0-9-]*' | grep -v 'blockdev\|fsck' | sort -u | tr '\n' ' ')
    echo "asked by user $who: $did"
    [ "$did" = "After=processes-0 After=signalled-0 After=user-65534 " ] || bad=1
done
[ ! -e "$W/root/etc/hostile" ] || bad=1
[ $bad = 0 ] && echo "it could do nothing else"
exit $bad
