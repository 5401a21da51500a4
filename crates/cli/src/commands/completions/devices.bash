
# The names of this host's devices, as a table has them.
_bradawl_devices() {
    local kind name
    for kind in UUID LABEL PARTUUID PARTLABEL; do
        for name in /dev/disk/by-"${kind,,}"/*; do
            case $name in
                *'*') ;; # no name of this kind
                *\\*) printf '%s\n' "$name" ;; # escaped as only a path may be
                *) printf '%s=%s\n' "$kind" "${name##*/}" ;;
            esac
        done
    done
}

_bradawl_with_devices() {
    _bradawl "$@"
    local name word=${COMP_LINE:0:COMP_POINT}
    word=${word##*[[:space:]]}
    [[ ${COMP_WORDS[1]} == resolve || ${COMP_WORDS[1]} == draft ]] && [[ $word != -* ]] || return 0
    [[ $3 == --* && $3 != -- ]] && return 0
    COMPREPLY=()
    while IFS= read -r name; do
        [[ $name == "$word"* ]] || continue
        # The part before "=" is a word of its own for the shell.
        [[ $word == *=* && $COMP_WORDBREAKS == *=* ]] && name=${name#*=}
        COMPREPLY+=("$(printf %q "$name")")
    done < <(_bradawl_devices)
}
complete -F _bradawl_with_devices -o bashdefault -o default bradawl
