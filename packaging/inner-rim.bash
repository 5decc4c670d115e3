_inner_rim() {
    local commands="open plan schema schedule trace hold train insights import export backup restore doctor"
    if [ "$COMP_CWORD" -eq 1 ]; then
        mapfile -t COMPREPLY < <(compgen -W "$commands --demo --help --version" -- "${COMP_WORDS[1]}")
    else
        mapfile -t COMPREPLY < <(compgen -f -- "${COMP_WORDS[COMP_CWORD]}")
    fi
}
complete -F _inner_rim inner-rim
