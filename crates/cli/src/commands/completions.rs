//! `jovrik completions`

use clap_complete::env::Shells;

use crate::complete::VARIABLE;
use crate::context::Context;
use crate::exit::{CommandError, Exit};

/// Print a shell's script that completes paths of settings, values and names
///
/// The script asks this program each time, so that it knows the rice of the folder one is in. For bash:
/// echo 'source <(jovrik completions bash)' >> ~/.bashrc
#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The shell
    #[arg(value_parser = ["bash", "zsh", "fish", "elvish", "powershell"])]
    pub shell: String,
}

/// In bash a `=` parts words: for the question they are joined. What stands before the last `=`, or before a quote that is open,
/// is taken off the answers, since bash leaves it as it was typed; outside of quotes what the shell would take apart is quoted.
const JOIN: &str = r#"
_jovrik() {
    local words=() at=0 i
    for (( i = 0; i < ${#COMP_WORDS[@]}; i++ )); do
        if (( i > 0 )) && [[ ${COMP_WORDS[i]} == "=" || ${COMP_WORDS[i-1]} == "=" ]]; then
            words[${#words[@]}-1]+=${COMP_WORDS[i]}
        else
            words+=("${COMP_WORDS[i]}")
        fi
        (( i == COMP_CWORD )) && at=$(( ${#words[@]} - 1 ))
    done
    local COMP_WORDS=("${words[@]}") COMP_CWORD=$at typed=${words[at]} quote="" before=""
    _clap_complete_jovrik "$1" "$typed" "$3"
    for (( i = 0; i < ${#typed}; i++ )); do
        case ${typed:i:1} in
            "$quote") quote="" ;;
            [\"\']) [[ -z $quote ]] && quote=${typed:i:1} before=${typed:0:i} ;;
        esac
    done
    if [[ -n $quote ]]; then
        before=${before//[\"\']/}
        COMPREPLY=("${COMPREPLY[@]#"$before"}")
        return
    fi
    if [[ $typed == *=* ]]; then
        COMPREPLY=("${COMPREPLY[@]#"${typed%=*}="}")
    fi
    for i in "${!COMPREPLY[@]}"; do
        if [[ ${COMPREPLY[i]} == *[[:space:]\"\'\`\$\&\|\;\<\>\(\)]* ]]; then
            printf -v "COMPREPLY[i]" %q "${COMPREPLY[i]}"
        fi
    done
}
complete -o nospace -o bashdefault -F _jovrik jovrik
"#;

/// In zsh what is not finished, such as `space.edge=`, is not followed by a space.
const GO_ON: &str = r#"
_jovrik() {
    local -a answers=("${(@f)$(
        _CLAP_IFS=$'\n' _CLAP_COMPLETE_INDEX=$(( CURRENT - 1 )) JOVRIK_COMPLETE=zsh jovrik -- "${words[@]}" 2>/dev/null
    )}") open=() whole=()
    local answer
    for answer in $answers; do
        case "${answer%%:*}" in
            *[=/]) open+=("$answer") ;;
            *) whole+=("$answer") ;;
        esac
    done
    (( $#open )) && _describe -V values open -S ''
    (( $#whole )) && _describe -V values whole
}
compdef _jovrik jovrik
"#;

pub fn run(arguments: Arguments, context: &mut Context) -> Result<Exit, CommandError> {
    if let Some(shell) = Shells::builtins().completer(&arguments.shell) {
        shell.write_registration(VARIABLE, "jovrik", "jovrik", "jovrik", &mut context.out)?;
    }
    match arguments.shell.as_str() {
        "bash" => write!(context.out, "{JOIN}")?,
        "zsh" => write!(context.out, "{GO_ON}")?,
        _ => {}
    }
    Ok(Exit::Done)
}
