//! Two lines to type for every command, and what else help and the pages for man say of all of them: one source for both.

/// A command, and lines to type with what they do.
pub struct Example {
    /// The command's words after `jovrik`; nothing for `jovrik` itself.
    pub command: &'static str,
    /// Lines, each with what it does.
    pub lines: &'static [(&'static str, &'static str)],
}

macro_rules! examples {
    ($($command:literal: $( $line:literal => $gloss:literal ),+ ;)*) => {
        &[$( Example { command: $command, lines: &[$( ($line, $gloss) ),+] } ),*]
    };
}

/// The examples of all commands.
pub const EXAMPLES: &[Example] = examples! {
    "": "jovrik demo" => "shows it all on the sample, without a display",
        "jovrik new ~/.config/jovrik/rice" => "starts a rice where every command finds it";
    "new": "jovrik new rice" => "the sample, in a new folder",
        "jovrik new rice --every-setting" => "with a file of every setting and its default, as comments";
    "demo": "jovrik demo" => "a tour, in a folder of its own",
        "jovrik demo --out tour" => "keeps what it makes in this folder";
    "settings": "jovrik settings border" => "what a border is called here",
        "jovrik settings frame.radius" => "one setting in full";
    "show": "jovrik show frame.radius" => "its value",
        "jovrik show bar.top" => "all of a table";
    "set": "jovrik set frame.radius 12" => "writes it where it stands",
        "jovrik set space.edge 20 space.between 12 --dry-run" => "says what two changes would write";
    "reset": "jovrik reset frame.radius" => "its default holds again",
        "jovrik reset bar.top.thick --dry-run" => "says what would be written";
    "rename": "jovrik rename workspace field outside" => "everywhere it is used",
        "jovrik rename palette ebb night --dry-run" => "says what would be written";
    "toggle": "jovrik toggle frame.glow.width" => "comments it out; again, in",
        "jovrik toggle 'keys.desk.\"Lead+c\"'" => "the same of a binding";
    "tune": "jovrik tune" => "all settings on a screen, with a picture",
        "jovrik tune bar --follow" => "those of bars; a running desktop follows";
    "schema": "jovrik schema" => "the JSON Schema, for an editor",
        "jovrik schema --write" => "writes it into the rice, where its parts name it";
    "why": "jovrik why" => "every file that is read, in order",
        "jovrik why bar.top.thick" => "who sets it, and what it won over";
    "check": "jovrik check" => "every problem in one pass",
        "jovrik check --fix" => "mends those that are certain";
    "keys": "jovrik keys clash" => "bindings that fight",
        "jovrik keys sheet" => "the cheat sheet, in the terminal";
    "keys list": "jovrik keys list" => "all bindings",
        "jovrik keys list --scope desk" => "those of the desk";
    "keys clash": "jovrik keys clash" => "which bindings fight for a press",
        "jovrik keys clash --json" => "for programs";
    "keys trace": "jovrik keys trace Lead+Return" => "who gets a press",
        "jovrik keys trace 'Lead+g c' --focus terminal" => "a sequence, in front of a terminal";
    "keys settle": "jovrik keys settle" => "the cheapest peace",
        "jovrik keys settle --write" => "makes it";
    "keys shift": "jovrik keys shift focus --keys 'h j k l' --to 'j k l semicolon'" => "one key to the right",
        "jovrik keys shift --modifier Super=Alt --write" => "another modifier, and writes it";
    "keys free": "jovrik keys free" => "free chords, the cheapest first",
        "jovrik keys free --near Lead+c" => "free ones close to this";
    "keys sheet": "jovrik keys sheet" => "in the terminal",
        "jovrik keys sheet --out keys.html" => "as a page";
    "keys learn": "jovrik keys learn" => "press keys, and see what they are called",
        "jovrik keys learn --json" => "a line of JSON for each";
    "palette": "jovrik palette list" => "the palettes, role by role",
        "jovrik palette use noon" => "chooses one";
    "palette list": "jovrik palette list" => "all of them",
        "jovrik palette list --json" => "for programs";
    "palette use": "jovrik palette use noon" => "from now on",
        "jovrik palette use noon --dry-run" => "says what would be written";
    "palette from": "jovrik palette from flat.png" => "shows what a picture gives",
        "jovrik palette from flat.png --name flat --write" => "writes it into the rice";
    "palette check": "jovrik palette check" => "how well the palette reads",
        "jovrik palette check noon" => "the same of another";
    "palette export": "jovrik palette export --to xresources" => "for terminals",
        "jovrik palette export noon --to css --out noon.css" => "another, as custom properties";
    "palette map": "jovrik palette map" => "which colours have a role near them",
        "jovrik palette map --write" => "writes the roles in their places";
    "rules": "jovrik rules list" => "in the order in which they are asked",
        "jovrik rules try --app gullmail" => "what would be set on a window";
    "rules list": "jovrik rules list" => "all of them",
        "jovrik rules list --json" => "for programs";
    "rules try": "jovrik rules try --app gullmail --title 'Compose: tide'" => "rule by rule",
        "jovrik rules try --pick" => "of a window that you press";
    "greet": "jovrik greet" => "what a new shell shows",
        "jovrik greet --width 60" => "in a narrow terminal";
    "greet try": "jovrik greet try tide" => "what a fact says, and how long that takes",
        "jovrik greet try memory --json" => "for programs";
    "bar": "jovrik bar try clock" => "what a module shows, and why",
        "jovrik bar print" => "the bars as text";
    "bar try": "jovrik bar try cpu" => "its fields, text and state",
        "jovrik bar try tide --json" => "for programs";
    "bar print": "jovrik bar print" => "each bar, a line at a time",
        "jovrik bar print --json" => "as JSON Lines";
    "look": "jovrik look --out look.png" => "the desktop as a picture",
        "jovrik look launcher --typed ga" => "one part, in the terminal";
    "watch": "jovrik watch" => "says on every save what changed",
        "jovrik watch --look look.png" => "and draws it";
    "machine": "jovrik machine" => "this computer's facts",
        "jovrik machine > machines/skiff.toml" => "keeps them in the rice";
    "live": "jovrik live" => "the desktop, on $DISPLAY",
        "jovrik live --only bar,notices" => "some parts, beside any other desktop";
    "tell": "jovrik tell go charts" => "shows a workspace",
        "jovrik tell set frame.width 4" => "until the next reload";
    "ask": "jovrik ask windows" => "a table",
        "jovrik ask --follow" => "what happens, as JSON Lines";
    "notices": "jovrik notices try" => "one of each kind",
        "jovrik notices show Volume --value 64 --of volume --icon speaker" => "one that replaces itself";
    "notices try": "jovrik notices try" => "one of each kind, over the bus",
        "jovrik notices try -v" => "and says what it does";
    "notices show": "jovrik notices show 'Low water' 'in ten minutes'" => "a title and a text",
        "jovrik notices show Volume --value 64 --of volume --icon speaker" => "one that replaces itself";
    "notices history": "jovrik notices history" => "the latest first",
        "jovrik notices history --json" => "for programs";
    "notices pause": "jovrik notices pause 30m" => "only urgent ones for half an hour",
        "jovrik notices pause" => "from now on; again, all of them";
    "notices dismiss": "jovrik notices dismiss" => "the latest",
        "jovrik notices dismiss --all" => "all of them";
    "launcher": "jovrik launcher windows" => "opens it with this list",
        "printf 'one\\ntwo\\n' | jovrik launcher --from-stdin" => "prints what is chosen";
    "apply": "jovrik apply" => "puts the rice into the home folder",
        "jovrik apply --dry-run" => "says what that would do";
    "history": "jovrik history" => "what was applied and changed",
        "jovrik history --everywhere" => "of all rices";
    "undo": "jovrik undo" => "takes the last one back",
        "jovrik undo --steps 3" => "the last three";
    "redo": "jovrik redo" => "does again what was taken back",
        "jovrik redo --dry-run" => "says what that would do";
    "publish": "jovrik publish --bundle saltmarsh.rice" => "looks it through, and packs it",
        "jovrik publish --bundle saltmarsh.rice --allow share/name" => "accepts one kind of finding";
    "adopt": "jovrik adopt saltmarsh.rice" => "shows all of it, and runs nothing",
        "jovrik adopt saltmarsh.rice --to saltmarsh" => "takes it";
    "completions": "jovrik completions bash" => "prints the script",
        "jovrik completions fish" => "for another shell";
    "man": "jovrik man | man -l -" => "this page",
        "jovrik man --out ~/.local/share/man/man1" => "writes one for each command";
    "help": "jovrik help text-patterns" => "a page of grammar",
        "jovrik help set" => "what jovrik set --help says";
};

/// What a program ends with: its code, and when.
pub const EXITS: &[(&str, &str)] = &[
    ("0", "done and clean"),
    ("1", "the rice has errors, or warnings with --strict; an expectation failed; what was asked was refused"),
    ("2", "what was typed cannot be meant"),
    ("3", "it could not be done: a file, the display, the bus"),
    ("130", "interrupted"),
];

/// Files that are read and written.
pub const FILES: &[(&str, &str)] = &[
    ("rice.toml, parts/*.toml, overlays/*.toml, machines/*.toml, art/", "a rice"),
    ("~/.config/jovrik/rice", "the rice that is used when none is named; $XDG_CONFIG_HOME moves it"),
    ("~/.local/state/jovrik/", "history, and what started programs say; $XDG_STATE_HOME moves it"),
    ("$XDG_RUNTIME_DIR/jovrik/DISPLAY.sock", "the running desktop's socket"),
];

/// Variables that are read.
pub const ENVIRONMENT: &[(&str, &str)] = &[
    ("JOVRIK_RICE", "the rice's folder, unless --rice says otherwise"),
    ("JOVRIK_LOG", "what is said on standard error: warn, info, debug, or jovrik_live=debug"),
    ("NO_COLOR", "no colours, whatever it holds"),
    ("COLUMNS", "how wide reports are"),
    ("DISPLAY", "the X server"),
];

/// The examples of a command.
pub fn of(command: &str) -> &'static [(&'static str, &'static str)] {
    EXAMPLES.iter().find(|example| example.command == command).map_or(&[], |example| example.lines)
}

/// Commands that are designed, and not built.
pub const NOT_BUILT: &[(&str, &str)] = &[
    ("rehearse", "it is to run tests of a rice"),
    ("narrow", "it is to find the change that breaks something"),
    ("bring", "it is to read the files of other programs"),
    ("dialect", "it is to say how the files of other programs are written"),
];

/// Words that people look for among the settings, of what is designed and not built.
pub const SETTINGS_NOT_BUILT: &[(&[&str], &str)] = &[
    (&["animation", "animations", "motion", "transition", "transitions", "easing", "fade"], "windows go to their places at once"),
    (
        &["compositor", "compositing", "composite", "vsync"],
        "windows are not composed; what a compositing manager beside the desk goes by is passed on to it",
    ),
    (&["dialect", "dialects"], "files of other programs are placed as templates: jovrik settings place"),
];

/// Words that people type for a command that is called otherwise, and what to type.
pub const OTHERWISE: &[(&str, &str)] = &[
    ("theme", "palette list"),
    ("themes", "palette list"),
    ("colors", "palette list"),
    ("colours", "palette list"),
    ("dock", "settings dock"),
    ("fetch", "greet"),
    ("greeting", "greet"),
    ("wallpaper", "set backdrop.picture art/PICTURE"),
    ("reload", "tell reload"),
    ("restart", "tell reload --self"),
    ("quit", "tell quit"),
    ("exit", "tell quit"),
    ("status", "ask health"),
    ("health", "ask health"),
    ("windows", "ask windows"),
    ("workspaces", "ask workspaces"),
    ("get", "show PATH"),
    ("list", "settings"),
    ("find", "settings WORDS"),
    ("search", "settings WORDS"),
    ("config", "settings"),
    ("options", "settings"),
    ("edit", "tune"),
    ("init", "new DIR"),
    ("create", "new DIR"),
    ("doctor", "check"),
    ("lint", "check"),
    ("validate", "check"),
    ("verify", "check"),
    ("fix", "check --fix"),
    ("run", "live"),
    ("start", "live"),
    ("preview", "look"),
    ("render", "look"),
    ("screenshot", "tell screenshot"),
    ("install", "apply"),
    ("deploy", "apply"),
    ("diff", "apply --dry-run"),
    ("log", "history"),
    ("revert", "undo"),
    ("rollback", "undo"),
    ("restore", "undo"),
    ("export", "publish --bundle FILE"),
    ("share", "publish --bundle FILE"),
    ("pack", "publish --bundle FILE"),
    ("import", "adopt SOURCE"),
    ("clone", "adopt SOURCE"),
    ("bindings", "keys list"),
    ("keybindings", "keys list"),
    ("hotkeys", "keys list"),
    ("shortcuts", "keys sheet"),
    ("cheatsheet", "keys sheet"),
    ("notify", "notices show TITLE"),
    ("notifications", "notices history"),
    ("menu", "launcher"),
    ("module", "bar try MODULE"),
    ("modules", "bar print"),
    ("rule", "rules list"),
    ("monitors", "ask monitors"),
    ("fonts", "machine"),
    ("version", "--version"),
    ("unset", "reset PATH"),
    ("explain", "why PATH"),
    ("bind", "set 'keys.desk.\"CHORD\"' ACTION"),
    ("unbind", "reset 'keys.desk.\"CHORD\"'"),
    ("keys add", "set 'keys.desk.\"CHORD\"' ACTION"),
    ("keys set", "set 'keys.desk.\"CHORD\"' ACTION"),
    ("keys bind", "set 'keys.desk.\"CHORD\"' ACTION"),
    ("keys remove", "reset 'keys.desk.\"CHORD\"'"),
    ("keys show", "keys list"),
    ("rules add", "set rule.NAME.match '{ app = \"APP\" }'"),
    ("rules new", "set rule.NAME.match '{ app = \"APP\" }'"),
    ("rules remove", "reset rule.NAME.match"),
    ("palette show", "palette list"),
    ("palette set", "palette use NAME"),
    ("palette next", "tell palette next"),
    ("bar list", "bar print"),
    ("bar add", "set bar.NAME.end+=MODULE"),
    ("notices send", "notices show TITLE"),
    ("notices test", "notices try"),
];
