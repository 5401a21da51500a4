# The names of this host's devices, as a table has them.
_bradawl_devices() {
    local kind name
    local -a names
    for kind in UUID LABEL PARTUUID PARTLABEL; do
        for name in /dev/disk/by-${kind:l}/*(N); do
            # What is escaped is escaped as only a path may be.
            if [[ $name == *\\* ]]; then names+=("$name"); else names+=("$kind=${name:t}"); fi
        done
    done
    compadd -a names
    _files
}

