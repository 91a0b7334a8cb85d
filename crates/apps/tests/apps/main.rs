//! Tests of desktop entries and icon themes, in folders of their own.

use std::path::{Path, PathBuf};

use jovrik_apps::{DesktopEntry, ExecError, Icons, Locale, XdgEnvironment, command, entries, programs};

fn entry(text: &str) -> Result<Option<DesktopEntry>, String> {
    DesktopEntry::parse(text, &Locale::parse("de_CH.UTF-8@valais")).map_err(|why| why.to_string())
}

const LOG: &str = "# a comment\n[Desktop Entry]\nType=Application\nName=Gauge log\nName[de]=Pegelbuch\nName[de_CH]=Pegelheft\nName[fr]=Journal\n\
GenericName=Log\nComment=What the gauges said\\sand when\nKeywords=tide;gauge\\;post;\nIcon=loghouse\nExec=loghouse --from \"two words\" %U\n\
Path=/srv\nTerminal=true\nActions=new;gone;\n\n[Desktop Action new]\nName=New log\nExec=loghouse --new\n";

#[test]
fn an_entry_is_read_in_the_persons_language_with_its_lists_and_actions() {
    let log = entry(LOG).expect("it is one").expect("an application");
    assert_eq!(
        (log.name.as_str(), log.generic.as_str(), log.comment.as_str()),
        ("Pegelheft", "Log", "What the gauges said and when")
    );
    assert_eq!((log.keywords, log.terminal, log.path.as_str()), (vec!["tide".to_owned(), "gauge;post".to_owned()], true, "/srv"));
    let actions: Vec<(&str, &str)> = log.actions.iter().map(|action| (action.id.as_str(), action.name.as_str())).collect();
    assert_eq!(actions, [("new", "New log")], "one that is listed and stands nowhere is none");
}

#[test]
fn what_is_broken_is_told_with_its_line_and_what_is_no_application_is_none() {
    let broken = [
        ("", "it has no group [Desktop Entry] at its beginning"),
        ("[Other]\nType=Application\n", "it has no group [Desktop Entry] at its beginning"),
        ("Type=Application\n", "line 1: a key stands before the first group"),
        ("[Desktop Entry\n", "line 1: the name of a group is not closed by ]"),
        ("[Desktop Entry]\nnonsense\n", "line 2: neither a group nor a key with its value"),
        ("[Desktop Entry]\nType=Application\nName=x\nExec=x\n[Desktop Entry]\n", "line 5: this group stands twice"),
        ("[Desktop Entry]\nType=Application\nName=x\nExec=x\nTerminal=yes\n", "line 5: expected true or false"),
        ("[Desktop Entry]\nName=x\nExec=x\n", "it has no Type"),
        ("[Desktop Entry]\nType=Application\nExec=x\n", "it has no Name"),
        ("[Desktop Entry]\nType=Application\nName=x\n", "it has no Exec"),
    ];
    for (text, why) in broken {
        assert_eq!(entry(text).expect_err(text), why);
    }
    assert_eq!(entry("[Desktop Entry]\nType=Link\nName=x\nURL=y\n"), Ok(None));
    assert!(entry("[Desktop Entry]\nHidden=true\n").expect("it is one").expect("it hides").hidden);
    assert!(entry("[Desktop Entry]\nType=Application\nName=x\nDBusActivatable=true\n").expect("it is one").is_some());
}

#[test]
fn desktops_show_what_is_meant_for_them() {
    let with =
        |more: &str| entry(&format!("[Desktop Entry]\nType=Application\nName=x\nExec=x\n{more}")).expect("one").expect("one");
    let cases: [(&str, &str, bool); 8] = [
        ("", "Jovrik", true),
        ("NoDisplay=true\n", "Jovrik", false),
        ("Hidden=true\n", "Jovrik", false),
        ("OnlyShowIn=Other;\n", "Jovrik", false),
        ("OnlyShowIn=Other;Jovrik;\n", "Jovrik", true),
        ("NotShowIn=Jovrik;\n", "Jovrik", false),
        // The first name that either list has decides.
        ("OnlyShowIn=B;\nNotShowIn=A;\n", "A:B", false),
        ("OnlyShowIn=A;\nNotShowIn=B;\n", "A:B", true),
    ];
    for (more, desktops, shown) in cases {
        let desktops: Vec<String> = desktops.split(':').map(str::to_owned).collect();
        assert_eq!(with(more).shown_in(&desktops), shown, "{more} in {desktops:?}");
    }
}

#[test]
fn a_command_is_split_unquoted_and_filled_as_the_specification_says() {
    let run = |exec: &str| command(exec, "buoy", "The log", Path::new("/a/log.desktop"));
    let cases: [(&str, &[&str]); 12] = [
        ("log", &["log"]),
        ("  log   --new  ", &["log", "--new"]),
        ("log \"two words\" x", &["log", "two words", "x"]),
        (r#"log "a \\"b\\" \\$c \\`d \\\\ e""#, &["log", "a \"b\" $c `d \\ e"]),
        ("log --name=\"two words\"", &["log", "--name=two words"]),
        ("log %f %F %u %U %d %v", &["log"]),
        ("log %i %c %k", &["log", "--icon", "buoy", "The log", "/a/log.desktop"]),
        ("log 100%%", &["log", "100%"]),
        ("log --file=%f", &["log", "--file="]),
        ("log \"%c\"", &["log", "The log"]),
        ("\"/opt/the log/run\" x", &["/opt/the log/run", "x"]),
        ("log \"\"", &["log", ""]),
    ];
    for (exec, wanted) in cases {
        assert_eq!(run(exec).expect(exec), wanted, "{exec}");
    }
    assert_eq!(run("log \"open"), Err(ExecError::Quote("log \"open".to_owned())));
    assert_eq!(run("log %x"), Err(ExecError::Code('x')));
    assert_eq!(run("log %"), Err(ExecError::Open));
    for empty in ["", "   ", "\"\"", "%f"] {
        assert_eq!(run(empty), Err(ExecError::Empty), "{empty}");
    }
    assert_eq!(command("log %i", "", "", Path::new("")).expect("it runs"), ["log"], "no icon, no option");
}

/// A home with folders of data and a folder of programs, all below one that goes away.
struct Home(tempfile::TempDir);

impl Home {
    fn new() -> Home {
        Home(tempfile::tempdir().expect("a folder"))
    }

    fn at(&self, name: &str) -> PathBuf {
        self.0.path().join(name)
    }

    fn write(&self, name: &str, text: &str) {
        let path = self.at(name);
        std::fs::create_dir_all(path.parent().expect("a folder")).expect("made");
        std::fs::write(path, text).expect("written");
    }

    fn places(&self) -> XdgEnvironment {
        XdgEnvironment {
            home: self.at("home"),
            data_home: None,
            data_dirs: Some(format!("{}:relative:{}", self.at("one").display(), self.at("two").display())),
            path: self.at("bin").display().to_string(),
            desktops: vec!["Jovrik".to_owned()],
            locale: Locale::default(),
        }
    }
}

fn app(name: &str, more: &str) -> String {
    format!("[Desktop Entry]\nType=Application\nName={name}\nExec={name}\n{more}")
}

#[test]
fn the_first_folder_wins_also_with_what_it_hides_and_a_broken_one_hides_nothing() {
    let home = Home::new();
    home.write("home/.local/share/applications/log.desktop", &app("own", ""));
    home.write("home/.local/share/applications/gone.desktop", "[Desktop Entry]\nHidden=true\n");
    home.write("home/.local/share/applications/broken.desktop", "[Desktop Entry]\nnonsense\n");
    home.write("one/applications/log.desktop", &app("other", ""));
    home.write("one/applications/gone.desktop", &app("gone", ""));
    home.write("one/applications/sea/map.desktop", &app("map", ""));
    home.write("two/applications/broken.desktop", &app("mended", ""));
    home.write("two/applications/sea-map.desktop", &app("late", ""));
    home.write("two/applications/tried.desktop", &app("tried", "TryExec=nowhere\n"));
    home.write("two/applications/binary.desktop", "placeholder");
    std::fs::write(home.at("two/applications/binary.desktop"), b"[Desktop Entry]\n\xff\xfe").expect("written");
    std::os::unix::fs::symlink(".", home.at("two/applications/round")).expect("linked");
    let found = entries(&home.places());
    let names: Vec<(&str, &str)> = found.entries.iter().map(|(id, (_, entry))| (id.as_str(), entry.name.as_str())).collect();
    let firsts: Vec<&(&str, &str)> = names.iter().filter(|(id, _)| !id.starts_with("round-")).collect();
    assert_eq!(firsts, [&("broken.desktop", "mended"), &("log.desktop", "own"), &("sea-map.desktop", "map")]);
    let left_out = |name: &str| found.left_out.iter().find(|(path, _)| path.ends_with(name)).map(|(_, why)| why.as_str());
    assert_eq!(left_out("broken.desktop"), Some("line 2: neither a group nor a key with its value"));
    assert_eq!(left_out("applications/binary.desktop"), Some("it is not in UTF-8"));
    // A program that comes is there at once.
    home.write("bin/nowhere", "");
    let runs = std::os::unix::fs::PermissionsExt::from_mode(0o755);
    std::fs::set_permissions(home.at("bin/nowhere"), runs).expect("it runs");
    assert!(entries(&home.places()).entries.contains_key("tried.desktop"));
    home.write("bin/notes.txt", "");
    assert_eq!(programs(&home.places()), ["nowhere"]);
}

#[test]
fn icons_are_found_by_size_scale_and_what_a_theme_inherits_and_circles_end() {
    let home = Home::new();
    let theme = |inherits: &str| {
        format!(
            "[Icon Theme]\nName=x\nInherits={inherits}\nDirectories=16/apps,48/apps,scalable/apps,../out,16x2/apps\n\
             [16/apps]\nSize=16\nType=Fixed\n[48/apps]\nSize=48\nType=Threshold\n[scalable/apps]\nSize=64\nMinSize=8\nMaxSize=512\nType=Scalable\n\
             [16x2/apps]\nSize=16\nScale=2\nType=Fixed\n[../out]\nSize=16\n"
        )
    };
    home.write("one/icons/station/index.theme", &theme("marsh,station"));
    home.write("one/icons/marsh/index.theme", &theme("station"));
    home.write("two/icons/hicolor/index.theme", &theme(""));
    for file in [
        "one/icons/station/16/apps/log.png",
        "two/icons/station/48/apps/log.png",
        "one/icons/station/scalable/apps/log.svg",
        "one/icons/station/16x2/apps/log.png",
        "one/icons/station/48/apps/map.png",
        "one/icons/marsh/16/apps/tide.png",
        "two/icons/hicolor/48/apps/mail.png",
        "two/icons/loose.png",
        "one/out/log.png",
    ] {
        home.write(file, "");
    }
    let mut icons = Icons::new("station", &home.places());
    let mut find = |name: &str, size, scale| {
        let found = icons.find(name, size, scale)?;
        Some(found.strip_prefix(home.0.path()).expect("below it").display().to_string())
    };
    let cases = [
        ("log", 16, 1, Some("one/icons/station/16/apps/log.png")),
        ("log", 48, 1, Some("two/icons/station/48/apps/log.png")),
        ("log", 50, 1, Some("two/icons/station/48/apps/log.png")),
        ("log", 128, 1, Some("one/icons/station/scalable/apps/log.svg")),
        ("log", 16, 2, Some("one/icons/station/16x2/apps/log.png")),
        ("log.png", 16, 1, Some("one/icons/station/16/apps/log.png")),
        ("map", 16, 1, Some("one/icons/station/48/apps/map.png")),
        ("tide", 64, 1, Some("one/icons/marsh/16/apps/tide.png")),
        ("mail", 16, 1, Some("two/icons/hicolor/48/apps/mail.png")),
        ("loose", 16, 1, Some("two/icons/loose.png")),
        ("nothing", 16, 1, None),
        ("../../out/log", 16, 1, None),
        ("", 16, 1, None),
    ];
    for (name, size, scale, wanted) in cases {
        assert_eq!(find(name, size, scale).as_deref(), wanted, "{name} at {size}x{scale}");
    }
    let whole = home.at("one/out/log.png");
    assert_eq!(find(&whole.display().to_string(), 16, 1).as_deref(), Some("one/out/log.png"));
    assert_eq!(find("/etc/passwd", 16, 1), None, "no picture");
    // A theme that is not there has what every theme has.
    assert!(Icons::new("nowhere", &home.places()).find("mail", 16, 1).is_some());
    assert!(Icons::new("../icons/station", &home.places()).find("log", 16, 1).is_none());
}

#[test]
fn fuzz_desktop_entries() {
    let corpus = [
        b"[Desktop Entry]\nType=Application\nName=Gauge log\nName[de]=Pegel\nExec=log --of %u \"a b\"\nIcon=log\nActions=new;\n[Desktop Action new]\nName=New\nExec=log -n %F\n".to_vec(),
        b"[Desktop Entry]\nHidden=true\nType=Application\n# words\nKeywords=a;b\\;c;\n".to_vec(),
    ];
    let locale = jovrik_apps::Locale::parse("de_DE.UTF-8@x");
    jovrik_fuzz::tries("desktop entries", &corpus, 40_000, |bytes| {
        let text = String::from_utf8_lossy(bytes);
        if let Ok(Some(entry)) = jovrik_apps::DesktopEntry::parse(&text, &locale) {
            assert!(entry.name.len() <= text.len());
        }
    });
}
