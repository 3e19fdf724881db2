/** What each shell runs to complete words: it asks the program itself, so that nothing is said twice. */
export const SCRIPTS = {
  bash: `_kleidon() {
  mapfile -t COMPREPLY < <(kleidon completion candidates -- "\${COMP_WORDS[@]:1:COMP_CWORD}" 2>/dev/null | cut -f1)
}
complete -o default -F _kleidon kleidon`,
  zsh: `#compdef kleidon
_kleidon() {
  local line
  local -a found
  for line in "\${(@f)$(kleidon completion candidates -- "\${(@)words[2,CURRENT]}" 2>/dev/null)}"; do
    [[ -n $line ]] && found+=("\${\${line%%$'\\t'*}//:/\\\\:}:\${line#*$'\\t'}")
  done
  if (( $#found )); then _describe kleidon found; else _files; fi
}
compdef _kleidon kleidon`,
  fish: `function __kleidon_candidates
  set -l words (commandline -opc)
  set -l current (commandline -ct)
  kleidon completion candidates -- $words[2..-1] "$current" 2>/dev/null
end
complete -c kleidon -f -a '(__kleidon_candidates)'
complete -c kleidon -s f -l file -r -F`,
} as const;

export type Shell = keyof typeof SCRIPTS;
