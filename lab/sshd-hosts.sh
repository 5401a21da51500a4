# Sourced by try-fleet.sh and try-ansible.sh: ssh servers on loopback ports, each a host of its own sort. Needs root.
# Sets: work, config (for ssh), and start/stop functions.
work=$(mktemp -d /var/tmp/fleet.XXXXXX)
base=${BASE_PORT:-22100}
config=$work/ssh_config
mkdir -p /run/sshd "$work/bb"
ssh-keygen -q -t ed25519 -N '' -f "$work/key"; ssh-keygen -q -t ed25519 -N '' -f "$work/hostkey"
cp "$work/key.pub" "$work/authorized"; chmod 755 "$work"; chmod 644 "$work/authorized"; chown root "$work/authorized"
id tidewatch >/dev/null 2>&1 || useradd -M -s /bin/sh tidewatch
usermod -p '*' tidewatch
printf 'Host *\n  HostName 127.0.0.1\n  User root\n  IdentityFile %s\n  IdentitiesOnly yes\n  StrictHostKeyChecking no\n  UserKnownHostsFile /dev/null\n  LogLevel ERROR\n' "$work/key" >"$config"
port=$base
serve() { # NAME [LINE OF SETTINGS]...
    name=$1; shift; port=$((port + 1))
    { printf 'Port %s\nListenAddress 127.0.0.1\nHostKey %s\nUsePAM no\nStrictModes no\nPermitRootLogin yes\nPasswordAuthentication no\nPidFile %s\n' \
        "$port" "$work/hostkey" "$work/$name.pid"
      case "$*" in *AuthorizedKeysFile*) ;; *) echo "AuthorizedKeysFile $work/authorized" ;; esac
      for line in "$@"; do echo "$line"; done; } >"$work/$name.conf"
    /usr/sbin/sshd -f "$work/$name.conf" || exit 1
    sed -i "1i Host $name\n  Port $port" "$config"
}
# A shell in a root where only busybox is left of the everyday programs.
cat >"$work/busybox.sh" <<EOF
#!/bin/sh
exec unshare -m /bin/busybox sh -c 'mount --bind $work/bb /usr/bin && mount --bind $work/bb /usr/sbin && export PATH=/usr/bin && exec "\$@"' sh "\$@"
EOF
cp /bin/busybox "$work/bb/busybox"
for applet in $("$work/bb/busybox" --list); do ln -sf busybox "$work/bb/$applet"; done
rm -f "$work/bb/base64"
# A shell that finds /tmp and /var/tmp full.
cat >"$work/full.sh" <<'EOF'
#!/bin/sh
exec unshare -m sh -c 'for d in /tmp /run; do mount -t tmpfs -o size=16k tmpfs $d; dd if=/dev/zero of=$d/fill 2>/dev/null; done; exec "$@"' sh "$@"
EOF
chmod 755 "$work"/*.sh
stop_hosts() {
    for pid in "$work"/*.pid; do kill "$(cat "$pid")" 2>/dev/null; done
    pkill -f "$work/" 2>/dev/null; userdel tidewatch 2>/dev/null; rm -rf "$work"
}
