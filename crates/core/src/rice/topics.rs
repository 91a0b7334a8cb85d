//! Pages of grammar: what is written inside values, with the same tables as the reference.

use jovrik_schema::catalogue::AtomicSetting;
use jovrik_text::problem::in_words;
use jovrik_values::action::ACTIONS;

use super::module_source::WORDS;
use super::{BuiltInSource, ButtonActions, OverlayConditions};

/// A page.
#[derive(Debug, Clone, Copy)]
pub struct Topic {
    /// Its name: `text-patterns`.
    pub name: &'static str,
    /// What else it is called by people who look for it, with commas between.
    pub also: &'static str,
    /// What it is about, in a line.
    pub about: &'static str,
    page: fn() -> Vec<Block>,
}

impl Topic {
    /// What it says.
    pub fn page(&self) -> Vec<Block> {
        (self.page)()
    }

    /// The page of this name, or of what people call it.
    pub fn named(name: &str) -> Option<&'static Topic> {
        let same = |topic: &&Topic| {
            topic.name == name || topic.name.trim_end_matches('s') == name || topic.also.split(", ").any(|also| also == name)
        };
        TOPICS.iter().find(same)
    }
}

/// A piece of a page.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Block {
    /// Sentences.
    Text(&'static str),
    /// What is written in a file.
    Code(&'static str),
    /// Rows of what is written and what it means.
    Table(Vec<[String; 2]>),
}

fn table(rows: &[(&str, &str)]) -> Block {
    Block::Table(rows.iter().map(|(written, means)| [(*written).to_owned(), (*means).to_owned()]).collect())
}

/// All pages.
pub const TOPICS: &[Topic] = &[
    Topic {
        name: "values",
        also: "types, colours, colors, durations, lengths, references",
        about: "how lengths, colours, durations and the rest are written",
        page: values,
    },
    Topic {
        name: "chords",
        also: "keys, bindings, keysyms, modifiers, shortcuts, hotkeys",
        about: "how keys are written",
        page: chords,
    },
    Topic { name: "actions", also: "do, commands", about: "what a binding, a press or jovrik tell can do", page: actions },
    Topic { name: "sources", also: "source, modules, module", about: "where the values of a module come from", page: sources },
    Topic {
        name: "text-patterns",
        also: "text, patterns, pattern, format, formats, text-pattern",
        about: "what a module shows of its values",
        page: patterns,
    },
    Topic {
        name: "grades",
        also: "cases, comparisons",
        about: "when a module calls for attention, and when it shows another text",
        page: grades,
    },
    Topic { name: "press", also: "click, clicks, mouse, menus", about: "what a press on a module does", page: press },
    Topic {
        name: "rules",
        also: "match, matches, window-patterns, rule, windows",
        about: "which windows a rule is for, and what it sets",
        page: rules,
    },
    Topic {
        name: "overlays",
        also: "when, conditions, overlay, machines, hosts",
        about: "files that are laid over the rice while a condition holds",
        page: overlays,
    },
    Topic {
        name: "widgets",
        also: "widget, gauges, desktop-widgets",
        about: "what lies on the backdrop, and where",
        page: widgets,
    },
    Topic {
        name: "templates",
        also: "template, fill, placeholders, terminal, editor, multiplexer, stylesheet",
        about: "files of other programs that take the rice's colours, fonts and sizes",
        page: templates,
    },
    Topic {
        name: "place",
        also: "files, dotfiles, link, links, symlinks",
        about: "files that a rice puts into the home folder",
        page: place,
    },
    Topic { name: "styles", also: "style, elements, cascade, theme", about: "how everything drawn looks", page: styles },
];

fn values() -> Vec<Block> {
    vec![
        table(&[
            ("12", "a length in pixels, before the monitor's scale"),
            ("\"40%\"  \"1/3\"", "a share of what it lies in"),
            ("11", "a size of text, in points"),
            ("\"250ms\"  \"2s\"  \"1h30m\"", "a duration; a bare number is refused, since nobody knows its unit"),
            ("\"#74d4b1\"  \"teal\"  \"hsl(160 50% 60%)\"", "a colour, as CSS writes it"),
            ("\"@accent\"", "a colour of the palette, by its role"),
            ("\"@accent/40%\"", "the same, 40 % opaque"),
            ("\"linear-gradient(45deg, @accent, @calm)\"", "a fill that is no plain colour"),
            ("\"=space.edge\"", "the value of another setting"),
            ("\"==x\"  \"@@x\"", "a text that begins with = or @"),
            ("[\"...\", \"tide\"]", "a list: what it holds so far, and one more"),
        ]),
        Block::Text(
            "One value, of settings that take a reference, may come from another: the bar and what keeps off it change together.",
        ),
        Block::Code("[space]\nedge = 12\nalone = \"=space.edge\""),
    ]
}

fn chords() -> Vec<Block> {
    vec![
        Block::Text("A chord is modifiers and a key with + between them; a sequence is chords with spaces."),
        table(&[
            ("\"Lead+Return\"", "Lead is the modifier that keys.lead names"),
            ("Super Alt Ctrl Shift Hyper Meta Level3", "the other modifiers; their order does not matter"),
            ("Return comma F5 XF86AudioMute", "a key, by its X11 keysym"),
            ("\"Lead+é\"", "a key, by the character that it prints"),
            ("plus space", "the two characters that chords are written with"),
            ("Button1 WheelUp", "a button of the mouse, its wheel"),
            ("\"<AD01>\"", "a place on the keyboard, by its XKB name: the same key on every layout"),
            ("\"Lead+g c\"", "a sequence: Lead+g, then c"),
        ]),
        Block::Text("A capital letter is refused: \"Lead+C\" could mean \"Lead+c\" or \"Lead+Shift+c\"."),
        Block::Code(
            "[keys.desk]\n\"Lead+Return\" = \"open terminal\"\n\"Lead+d\" = [\"layout next\", \"main grow\"]\n\"Lead+BackSpace\" = { do = \"close\", note = \"Close the window\", fixed = true }\n\"Lead+z\" = \"none\"\n\n[keys.desk.modes.sizing]\n\"h\" = \"main shrink\"\n\"Escape\" = \"mode leave\"",
        ),
        table(&[
            ("do", "an action, or a list of them"),
            ("note", "what it is for, as the sheet says it"),
            ("fixed = true", "keys settle may not move it"),
            ("on = \"release\"", "when the key comes up again"),
            ("repeat = false", "once, however long it is held"),
        ]),
        Block::Text("jovrik keys free lists chords that are free; jovrik keys trace \"Lead+c\" says who gets one."),
    ]
}

fn actions() -> Vec<Block> {
    vec![
        Block::Text(
            "What a binding does, a press on a module, an entry of a menu, and jovrik tell. Words in capitals are yours; [ ] may be left out.",
        ),
        Block::Table(ACTIONS.iter().map(|(form, does, _)| [(*form).to_owned(), (*does).to_owned()]).collect()),
    ]
}

fn sources() -> Vec<Block> {
    let built_in = WORDS.iter().filter_map(|word| {
        let source = BuiltInSource::named(word)?;
        let of = source.of().map(|of| format!("; of = {of}")).unwrap_or_default();
        Some([(*word).to_owned(), format!("{}{of}", in_words(source.fields()))])
    });
    vec![
        Block::Code(
            "[module.tide]\nsource = { run = [\"sluice\", \"--json\"], every = \"1h\", within = \"5s\", keep = \"6h\" }\npick = { level = \"/station/level\" }\ntext = \"{level:.1} m\"\nempty = \"no gauge\"",
        ),
        table(&[
            ("run = [\"PROGRAM\", \"ARGUMENT\"]", "what a program prints"),
            ("shell = \"LINE\"", "what a line for the shell prints"),
            ("stream = [\"PROGRAM\"]", "a program that keeps running: each of its lines is a value"),
            ("file = \"PATH\"", "what stands in a file, whenever it changes"),
            ("kind = \"cpu\"  or just  \"cpu\"", "one that is built in"),
            ("every = \"5s\"", "how often it is asked"),
            ("within = \"5s\"", "how long it may take"),
            ("keep = \"6h\"", "how long the last good value stands when it fails"),
        ]),
        Block::Text(
            "pick takes values out of what is printed: a JSON pointer (RFC 6901), \"line 2\", or \"re:level=([0-9.]+)\".",
        ),
        Block::Text("Built in, with the fields that a text may name beside value:"),
        Block::Table(built_in.collect()),
        Block::Text("jovrik bar try MODULE runs one, and says what came, which fields there are, and how long it took."),
    ]
}

fn patterns() -> Vec<Block> {
    vec![
        Block::Text(
            "{field}, {field:spec} or {field|literal}: the literal stands when the field has no value. {{ and }} are braces.",
        ),
        table(&[
            ("{value}", "the whole of what came"),
            ("{load}%", "a field, and text behind it"),
            ("{level:.1}", "with one decimal"),
            ("{load:>3}", "at the right of 3 characters; < left, ^ middle"),
            ("{down:bytes}", "3.1 MiB"),
            ("{down:bytes 1000}", "3.3 MB"),
            ("{degrees:celsius}", "41 °C; fahrenheit: 106 °F"),
            ("{load:percent}", "rounded, with its sign"),
            ("{load:meter 8}", "a bar of 8 characters, of a number from 0 to 100"),
            ("{load:spark 12}", "the last 12 values as columns"),
            ("{title:cut 40}", "40 characters at most"),
            ("{name:upper}", "in capitals"),
            ("{time:%a %d %H:%M}", "a time, in strftime's letters"),
            ("{level:.1|no gauge}", "what to say without a value"),
        ]),
        Block::Text("Which fields there are depends on the source: jovrik help sources, or jovrik bar try MODULE."),
    ]
}

fn grades() -> Vec<Block> {
    vec![
        Block::Text(
            "A condition is a field, a comparison and a value: < <= > >= for numbers, = and != for words, too. Several in a list must all hold.",
        ),
        Block::Code(
            "[module.battery]\nsource = \"battery\"\ngrades = { warn = \"percent <= 20\", urgent = [\"percent <= 8\", \"state != charging\"] }\ncases = [{ when = \"state = full\", text = \"full\" }]",
        ),
        table(&[
            ("active", "something is on"),
            ("warn", "look soon"),
            ("urgent", "look now"),
            ("cases", "the first whose condition holds gives the text and the icon"),
        ]),
        Block::Text("The colours are those of the states: [style.bar.module.warn]."),
    ]
}

fn press() -> Vec<Block> {
    let buttons: Vec<&str> = ButtonActions::KIND.fields.iter().map(|field| field.name).collect();
    vec![
        Block::Text("An action for each button; a list is a menu."),
        Block::Code(
            "[module.volume]\npress = { left = \"run jovrik-mixer toggle\", wheel-up = \"run jovrik-mixer up\", right = [\n    { label = \"Mixer\", do = \"open mixer\" },\n    { label = \"Mute\", do = \"run jovrik-mixer toggle\" },\n] }",
        ),
        Block::Table(vec![[in_words(&buttons), "the buttons and the wheel".to_owned()]]),
        Block::Text("What can be done: jovrik help actions."),
    ]
}

fn rules() -> Vec<Block> {
    vec![
        Block::Text(
            "All rules are asked in order; each that matches sets what it sets, and a later one wins. All that match gives must hold.",
        ),
        Block::Code(
            "[rule.letters]\nmatch = { app = \"gullmail\", title = \"re:^Compose\" }\nset = { float = true, at = \"centre\", size = [\"40%\", 500] }",
        ),
        table(&[
            ("app", "the class of the window, as ask windows and rules try --pick show it"),
            ("instance", "the other half of its class"),
            ("title", "its title"),
            ("role", "its role"),
            ("program", "a name of [program] that started it"),
            ("kind", "normal, dialog, utility, toolbar, menu, splash …: its EWMH type"),
            ("workspace, monitor", "where it would appear"),
            ("transient = true", "whether it belongs to another window"),
        ]),
        Block::Text("A pattern is a glob (* any letters, ? one), or an expression after re:. Letters count as they are written."),
        table(&[("\"tide*\"", "begins with tide"), ("\"re:^(Open|Save) \"", "begins with Open or Save")]),
        Block::Text(
            "What can be set: jovrik settings rule.NAME.set. jovrik rules try --pick says what rules do with a window that you press.",
        ),
    ]
}

fn overlays() -> Vec<Block> {
    vec![
        Block::Text(
            "A file in overlays/ is laid over the parts while all its conditions hold; one with a higher order is laid later.",
        ),
        Block::Code(
            "[overlay]\nwhen = { host = \"skiff\", monitor-height = \"< 1000\" }\norder = 10\npersonal = false\n\n[bar.top]\nthick = 26",
        ),
        Block::Table(
            OverlayConditions::KIND
                .fields
                .iter()
                .map(|field| [format!("{} = {}", field.name, field.example()), field.help.to_owned()])
                .collect(),
        ),
        Block::Text(
            "personal = true keeps the file at home: it is never published. drop = [\"bar.side\"] takes settings away first.",
        ),
    ]
}

fn widgets() -> Vec<Block> {
    use super::widget::{Anchor, RelativePosition, WidgetKind};
    let anchors: Vec<&str> = Anchor::ALL.iter().map(|anchor| anchor.word()).collect();
    let places = std::iter::once(["a word".to_owned(), format!("{} of the screen, beside the bars", in_words(&anchors))]);
    let others = RelativePosition::ALL.map(|(word, to)| {
        let means = match to {
            RelativePosition::Beside => "at the right of another widget",
            RelativePosition::Below => "below another widget",
            RelativePosition::Inside => "in the middle of another widget",
        };
        [format!("{word} NAME"), means.to_owned()]
    });
    let kinds = WidgetKind::ALL.iter().map(|kind| {
        let needs = match kind {
            WidgetKind::Text => "text, or what module says",
            WidgetKind::Clock => "the time, large; text says how",
            WidgetKind::Ring => "module; field, from and to say what fills it",
            WidgetKind::Meter => "module; the same, as a line",
            WidgetKind::Graph => "module; the last samples of field, or a line of numbers that its source gives",
            WidgetKind::List => "rows: a module each",
            WidgetKind::Picture => "picture: a file of the rice",
        };
        [format!("kind = \"{}\"", kind.word()), needs.to_owned()]
    });
    vec![
        Block::Text("A widget shows what a module says, whether a bar shows that module or not. It lies below all windows."),
        Block::Code(
            "[module.cpu]\nsource = \"cpu\"\ntext = \"{load:.0} %\"\n\n[widget.load]\nkind = \"ring\"\nmodule = \"cpu\"\nat = \"bottom-right\"\noffset = [-40, -40]\n\n[widget.name]\ntext = \"processor\"\nat = \"below load\"\nalign = \"middle\"",
        ),
        Block::Table(kinds.collect()),
        Block::Table(places.chain(others).collect()),
        Block::Text(
            "each = \"core\" makes one for each core of the processor. Where a tile lies over a part of one it is not seen; what floats lies over it. jovrik look widgets draws them.",
        ),
    ]
}

fn templates() -> Vec<Block> {
    let forms = crate::template::COLOUR_FORMS.iter().map(|form| {
        let role = if form.has_opacity() { "@accent/50%" } else { "@accent" };
        [format!("{{{{{role} {}}}}}", form.name), form.example.to_owned()]
    });
    vec![
        Block::Text(
            "Any program's file can take the look of the rice: put it into art/, write holes where values stand, and place it. A hole is a setting or a colour in two pairs of braces; all else stays as it is.",
        ),
        table(&[
            ("{{type.mono}}  {{type.size}}", "a setting, by its path; a text without quotes"),
            ("{{@paper}}", "a colour of the palette in use, by its role: #101c1f"),
            ("{{@accent/40%}}", "the same, 40 % opaque: #rrggbbaa"),
            ("{{@term0}} … {{@term15}}", "the sixteen colours of a terminal"),
            ("{{frame.active rrggbb}}", "a colour as another program writes it; see below"),
            ("{{\"{{\"}}", "two braces that are meant"),
        ]),
        Block::Text("A colour as other programs write it, where accent is #102030:"),
        Block::Table(forms.collect()),
        Block::Text("A terminal: art/colours.xres of the sample; xterm reads it once it is placed."),
        Block::Code("XTerm*faceName: {{type.mono}}\nXTerm*background: {{@paper}}\nXTerm*color1: {{@term1}}"),
        Block::Text("An editor whose colours are a JSON file:"),
        Block::Code("{ \"text\": \"{{@ink}}\", \"page\": \"{{@paper}}\", \"marked\": \"{{@accent/40%}}\" }"),
        Block::Text("A multiplexer or a prompt that reads variables, or numbers for a terminal:"),
        Block::Code("STRIP='{{@raise rrggbb}}'\nMARK='\\033[38;2;{{@accent r;g;b}}m'"),
        Block::Text("A stylesheet:"),
        Block::Code(":root { --page: {{@paper}}; --shade: {{@paper/80% rgba()}}; font: {{type.size}}pt \"{{type.text}}\"; }"),
        Block::Text(
            "Where it goes is said in [place]: jovrik help place. jovrik palette export --to template FILE fills any file and shows it. A change of the palette and an apply fill all of them anew.",
        ),
    ]
}

fn place() -> Vec<Block> {
    vec![
        Block::Text(
            "A rice can put files of other programs where they belong. jovrik apply writes them with everything else in one step, and jovrik undo brings back what stood there.",
        ),
        Block::Code(
            "[place]\n\"~/.Xdefaults\" = { from = \"art/colours.xres\", fill = true }\n\"~/.config/tides/station.json\" = \"art/station.json\"",
        ),
        table(&[
            ("\"~/PATH\"", "where it goes; a folder that is missing is made"),
            ("\"art/FILE\"", "the file of the rice, as it is"),
            ("from = \"art/FILE\"", "the same"),
            ("fill = true", "its holes are filled with the rice's values: jovrik help templates"),
        ]),
        Block::Text(
            "A link stays a link: what it leads to is written. A file that was there before, or was changed by hand since, is kept until jovrik apply --take PATH. What the rice no longer places goes, and what stood there before comes back. Nothing outside of the home is written without --outside PATH.",
        ),
        Block::Text("jovrik apply --dry-run says what would become of each file."),
    ]
}

fn styles() -> Vec<Block> {
    let elements = crate::style::ELEMENTS.iter().map(|element| {
        let states: Vec<&str> = element.states.iter().map(|state| state.word()).collect();
        let states = if states.is_empty() { String::new() } else { format!("; {}", in_words(&states)) };
        [element.path.to_owned(), format!("{}{states}", element.help)]
    });
    vec![
        Block::Text("A table for each element, then perhaps the name of one of its kind, then perhaps a state."),
        Block::Code(
            "[style.bar]\nfill = \"@paper/85%\"\n\n[style.bar.module.clock]\nink = \"@accent\"\n\n[style.launcher.row.picked]\nfill = \"@accent\"\nink = \"@paper\"",
        ),
        Block::Table(elements.collect()),
        Block::Text(
            "ink, font, size, bold, underline and align come from what contains an element; fill, line, radius, pad and gap from its kind alone. jovrik why style.launcher.row.picked.ink shows the chain.",
        ),
    ]
}
