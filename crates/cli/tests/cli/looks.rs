//! Looks of parts, beside others, as SVG, in a terminal; palettes; watching; the cascade explained.

use insta::assert_snapshot;

use crate::Desk;

fn size(bytes: &[u8]) -> (u32, u32) {
    let number = |at: usize| u32::from_be_bytes(bytes[at..at + 4].try_into().expect("four bytes"));
    assert_eq!(&bytes[1..4], b"PNG");
    (number(16), number(20))
}

fn picture(desk: &Desk, name: &str) -> Vec<u8> {
    std::fs::read(desk.rice().join(name)).expect("it was written")
}

#[test]
fn parts_are_drawn_by_themselves_and_larger() {
    let desk = Desk::sample();
    let drawn = |arguments: &[&str]| {
        let mut all = vec!["look", "--out", "x.png"];
        all.extend(arguments);
        desk.run(&all).clean();
        size(&picture(&desk, "x.png"))
    };
    assert_eq!(drawn(&["bar.top", "--monitor", "DP-1"]), (1920, 32));
    assert_eq!(drawn(&["bar", "--size", "800x600", "--scale", "2"]), (1600, 64));
    assert_eq!(drawn(&["backdrop", "--monitor", "HDMI-1"]), (1280, 1024));
    let (w, h) = drawn(&["module.tide", "--monitor", "DP-1"]);
    assert!(w < 300 && h == 32, "{w}x{h}");
    let (w, h) = drawn(&["notices", "--monitor", "DP-1"]);
    assert!(w == 390 && h > 300, "four of them: {w}x{h}");
    assert_eq!(drawn(&["launcher", "--typed", "ga", "--size", "1280x800"]), (688, 472));
    assert_eq!(drawn(&["launcher", "--list", "windows", "--size", "800x600"]).0, 688);
    assert_eq!(drawn(&["sheet", "--size", "1280x800"]).0, 1280);
    let (w, h) = drawn(&["hint", "--monitor", "DP-1"]);
    assert!(w < 500 && h < 200, "{w}x{h}");
    let (w, h) = drawn(&["menu", "--monitor", "DP-1"]);
    assert!(w < 500 && h < 300, "{w}x{h}");
    assert_snapshot!(desk.run(&["look", "launcher", "--list", "lamps"]).failed(2), @"error  there is no list lamps; there are station, apps, programs, commands, windows, chords, notices, pictures and characters");
    assert_snapshot!(desk.run(&["look", "bar", "--typed", "x"]).failed(2), @"error  --list and --typed go with jovrik look, and with jovrik look launcher");
    assert_snapshot!(desk.run(&["look", "module.moon"]).failed(2), @"error  no bar shows a module moon; they show staff, layout, title, tide, cpu, memory, volume and clock");
    assert_snapshot!(desk.run(&["look", "lamp"]).failed(2), @"error  there is no part lamp to draw; it is desktop, backdrop, bar, bar.NAME, module.NAME, dock, widgets, notices, launcher, menu, hint or sheet");
    desk.run(&["look", "--out", "x.gif"]).failed(2);
    desk.run(&["look", "--scale", "9"]).failed(2);
}

#[test]
fn a_look_stands_beside_another_state_and_says_what_differs() {
    let desk = Desk::sample();
    let beside = |other: &str| desk.run(&["look", "--size", "1280x800", "--out", "b.png", "--beside", other]).clean();
    assert_snapshot!(beside("frame.radius=16"), @"
    wrote b.png: 2632x868, 1 monitor of breakwater
      different in 8 places: 32x32+0+32, 64x32+672+32, 32x32+1248+32, 32x64+704+384, and 4 more
      frame.radius 8 → 16
    ");
    assert_eq!(size(&picture(&desk, "b.png")), (2632, 868));
    assert_snapshot!(beside("noon"), @r#"
    wrote b.png: 2632x868, 1 monitor of breakwater
      nearly all of it looks different
      palette.use "ebb" → "noon"
    "#);
    assert_snapshot!(beside("laptop"), @r#"
    wrote b.png: 2632x868, 1 monitor of breakwater
      nearly all of it looks different
      bar.top.thick 32 → 28
      bar.top.end ["tide", "cpu", "memory", "volume", "clock"] → ["tide", "cpu", "clock"]
      space.between 8 → 4
      space.edge 12 → 4
      space.alone 12 → 4
    "#);
    assert_snapshot!(beside("ebb"), @"
    wrote b.png: 2632x868, 1 monitor of breakwater
      both look the same
    ");
    desk.run(&["set", "space.edge", "30"]).clean();
    assert_snapshot!(beside("#1"), @"
    wrote b.png: 2632x868, 1 monitor of breakwater
      both look the same
    ");
    desk.run(&["set", "frame.width", "6"]).clean();
    assert!(beside("#1").contains("frame.width 6 → 2"), "what came later is taken back");
    desk.run(&["look", "--size", "1280x800", "--out", "old.png"]).clean();
    assert!(beside("old.png").contains("both look the same"));
    let err = desk.run(&["look", "--beside", "nothing"]).failed(2);
    assert!(err.contains("--beside takes a palette (ebb and noon)"), "{err}");
    desk.run(&["look", "--beside", "#99"]).failed(2);
    desk.run(&["look", "--beside", "frame.radius=wide"]).failed(1);
    desk.run(&["look", "--beside", "noon", "--out", "b.svg"]).failed(2);
}

#[test]
fn an_svg_has_shapes_and_outlines_and_is_the_same_each_time() {
    let desk = Desk::sample();
    desk.run(&["look", "--monitor", "DP-1", "--out", "a.svg"]).clean();
    let text = desk.read("a.svg");
    assert!(text.starts_with("<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"1920\" height=\"1080\""), "{}", &text[..200]);
    assert!(text.contains("<use href=\"#t0\"") && !text.contains("<text") && !text.contains("NaN"));
    let opened = text.matches("<g ").count();
    assert_eq!(opened, text.matches("</g>").count());
    desk.run(&["look", "--monitor", "DP-1", "--out", "b.svg"]).clean();
    assert_eq!(text, desk.read("b.svg"));
    let part = "[backdrop]\nfill = \"linear-gradient(45deg, red, #00f8)\"\npicture = \"art/p.png\"\nfit = \"tile\"\n[style.bar]\nradius = [0, 0, 9, 9]\nunderline = true\n";
    desk.write("parts/z.toml", part);
    std::fs::create_dir_all(desk.rice().join("art")).expect("a folder");
    desk.run(&["look", "module.cpu", "--monitor", "DP-1", "--out", "art/p.png", "--with", "backdrop.fit=cover"]).clean();
    let told = desk.run(&["look", "--monitor", "DP-1", "--out", "c.svg"]).clean();
    assert!(!told.contains("art/p.png:"), "{told}");
    let text = desk.read("c.svg");
    assert!(text.contains("<linearGradient") && text.contains("data:image/png;base64,") && text.contains("A9 9 0 0 1"));
}

#[test]
fn a_look_is_shown_in_the_terminal_as_blocks_or_sixels() {
    let desk = Desk::sample();
    let blocks = desk.run(&["look", "--size", "800x600", "--as", "blocks"]).clean();
    assert!(blocks.lines().count() > 8 && blocks.lines().all(|line| line.chars().all(|c| c == '▀')), "{blocks}");
    let sixels = desk.run(&["look", "bar.top", "--size", "800x600", "--as", "sixel"]);
    assert_eq!(sixels.code, 0);
}

#[test]
fn pictures_that_are_broken_are_told_and_nothing_is_lost() {
    let desk = Desk::sample();
    std::fs::create_dir_all(desk.rice().join("art")).expect("a folder");
    std::fs::write(desk.rice().join("art/broken.png"), b"\x89PNG\r\n\x1a\nrubbish").expect("written");
    // A header that says 20,000 by 20,000 pixels, and nothing else.
    let mut huge = b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR".to_vec();
    huge.extend(20_000_u32.to_be_bytes().iter().chain(&20_000_u32.to_be_bytes()).chain(&[8, 6, 0, 0, 0]));
    huge.extend([0x6b, 0x6b, 0x6b, 0x6b]);
    std::fs::write(desk.rice().join("art/huge.png"), huge).expect("written");
    for (name, why) in [("broken", "no PNG or JPEG"), ("huge", ""), ("gone", "it does not exist")] {
        desk.write("parts/z.toml", format!("[backdrop]\npicture = \"art/{name}.png\"\n"));
        let told = desk.run(&["check"]);
        assert!(told.out.contains("file/no-picture") && told.out.contains(why), "{name}: {}", told.out);
        let told = desk.run(&["look", "--size", "800x600"]).clean();
        assert!(told.contains(&format!("art/{name}.png: ")), "{name}: {told}");
    }
    desk.write("parts/z.toml", "");
    let refused = desk.run(&["palette", "from", "art/huge.png"]).failed(3);
    assert!(refused.contains("art/huge.png: "), "{refused}");
}

/// The colour of a pixel of a picture that is there.
fn pixel(path: &std::path::Path, x: u32, y: u32) -> [u8; 3] {
    image::open(path).expect("a picture").to_rgb8().get_pixel(x, y).0
}

#[test]
fn a_picture_of_the_home_is_drawn_and_not_shared() {
    let desk = Desk::of("[backdrop]\npicture = \"~/Pictures/flat.png\"\nfit = \"cover\"\n");
    std::fs::create_dir(desk.home().join("Pictures")).expect("made");
    let told = desk.run(&["check"]).clean();
    assert!(told.contains("~/Pictures/flat.png cannot be shown") && told.contains("does not exist"), "{told}");
    image::RgbImage::from_pixel(24, 12, image::Rgb([200, 30, 90])).save(desk.home().join("Pictures/flat.png")).expect("written");
    assert!(desk.run(&["check"]).clean().starts_with("No problems"));
    desk.run(&["look", "backdrop", "--size", "400x300", "--out", "x.png"]).clean();
    assert_eq!(pixel(&desk.rice().join("x.png"), 200, 150), [200, 30, 90]);
    // A folder of them, too, which is how many keep theirs; what only looks like the home is none.
    desk.write("parts/a.toml", "[backdrop]\npicture = \"~/Pictures\"\n");
    assert!(desk.run(&["check"]).clean().starts_with("No problems"));
    desk.write("parts/a.toml", "[backdrop]\npicture = \"../home/Pictures/flat.png\"\n");
    assert!(desk.run(&["check"]).clean().contains("cannot be shown"));
    desk.write("parts/a.toml", "[backdrop]\npicture = \"~/Pictures/flat.png\"\n");
    let told = desk.run(&["publish", "--bundle", "../x.rice"]).clean();
    assert!(told.contains("~/Pictures/flat.png is of your home and is not shared"), "{told}");
    // Whoever takes it sees nothing in its place, and the check says so.
    let bundle = std::fs::read(desk.path().join("x.rice")).expect("a bundle");
    let other = Desk::of("");
    std::fs::write(other.path().join("x.rice"), bundle).expect("written");
    other.run(&["adopt", "../x.rice", "--to", "../taken"]).clean();
    let told = other.run(&["check", "--rice", "../taken"]).clean();
    assert!(told.contains("~/Pictures/flat.png cannot be shown"), "{told}");
}

#[test]
fn an_icon_may_be_a_drawing_of_the_rice() {
    let part = |icon: &str| {
        format!("[bar.top]\nthick = 40\nstart = [\"own\"]\n[module.own]\nsource = \"time\"\ntext = \" \"\nicon = \"{icon}\"\n")
    };
    let desk = Desk::of(&part("file:art/full.svg"));
    let square = "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 4 4\"><path d=\"M0 0h4v4h-4z\" fill=\"#f0f\"/></svg>";
    desk.write("art/full.svg", square);
    assert!(desk.run(&["check"]).clean().starts_with("No problems"));
    let magenta = || {
        desk.run(&["look", "bar.top", "--size", "400x300", "--out", "x.png"]).clean();
        let picture = image::open(desk.rice().join("x.png")).expect("a picture").to_rgb8();
        picture.pixels().filter(|pixel| pixel.0 == [255, 0, 255]).count()
    };
    assert!(magenta() > 100);
    desk.write("parts/a.toml", part("art/full.svg"));
    assert!(magenta() > 100, "with the word before it or without");
    // One that would take too much is refused where it is named.
    desk.write("art/full.svg", square.replace("<path", "<filter id=\"f\"/><path"));
    let told = desk.run(&["check"]).clean();
    assert!(told.contains("art/full.svg cannot be shown") && told.contains("it has filters"), "{told}");
    assert_eq!(magenta(), 0);
}

#[test]
fn palettes_are_listed_chosen_made_checked_and_exported() {
    let desk = Desk::sample();
    assert_snapshot!(desk.run(&["palette", "list"]).clean(), @"
            ebb, in use       noon
    paper    #101c1f       #f6f3ec
    raise    #19272a       #eae6dc
    line     #304044       #c7c4b7
    muted    #839699       #53676c
    ink      #d9e6e5       #152a32
    accent   #74d4b1       #006758
    calm     #7cb9e1       #255e90
    good     #93d27e       #2c6a31
    warn     #eec060       #875806
    alert    #f67a6c       #ae2e27

    → jovrik palette use noon
          takes the other; jovrik palette check says how well it reads
    ");
    desk.run(&["palette", "use", "noon"]).clean();
    assert!(desk.read("parts/look.toml").contains("use = \"noon\""));
    assert!(desk.run(&["palette", "use", "dusk"]).failed(1).contains("there is no palette dusk"));
    desk.run(&["look", "--size", "800x600", "--out", "shot.png"]).clean();
    let shown = desk.run(&["palette", "from", "shot.png", "--name", "made"]).clean();
    assert!(shown.contains("jovrik palette from shot.png --name made --write"), "{shown}");
    assert_eq!(shown, desk.run(&["palette", "from", "shot.png", "--name", "made"]).clean());
    desk.run(&["palette", "from", "shot.png", "--name", "made", "--write"]).clean();
    assert!(
        desk.run(&["palette", "from", "shot.png", "--name", "made", "--write"]).failed(1).contains("has a palette made already")
    );
    desk.run(&["palette", "check", "made"]).clean();
    desk.run(&["check"]).clean();
    let css = desk.run(&["palette", "export", "noon", "--to", "css"]).clean();
    assert!(css.contains("--accent: #006758;"), "{css}");
    desk.run(&["palette", "export", "--to", "xresources", "--out", "x.res"]).clean();
    assert!(desk.read("x.res").contains("*color15:"));
    desk.run(&["palette", "export", "dusk", "--to", "css"]).failed(2);
    // Any file with holes is filled as an apply would fill it, also with another palette.
    desk.write("art/own.conf", "page={{@paper rrggbb}}\nsize={{type.size}}\n");
    assert_eq!(desk.run(&["palette", "export", "--to", "template", "art/own.conf"]).clean(), "page=f6f3ec\nsize=11\n");
    assert_eq!(desk.run(&["palette", "export", "ebb", "--to", "template", "art/own.conf"]).clean(), "page=101c1f\nsize=11\n");
    for sample in ["css", "json", "sh", "xres"] {
        let filled = desk.run(&["palette", "export", "--to", "template", &format!("art/colours.{sample}")]).clean();
        // The accent of the palette in use; the variables have it as numbers.
        let accent = if sample == "sh" { "0;103;88" } else { "#006758" };
        assert!(!filled.contains("{{") && filled.contains(accent), "{filled}");
        if sample == "json" {
            serde_json::from_str::<serde_json::Value>(&filled).expect("JSON");
        }
    }
    desk.write("art/own.conf", "a\n  {{@papr}}\n");
    let told = desk.run(&["palette", "export", "--to", "template", "art/own.conf"]).failed(1);
    assert!(told.contains("art/own.conf:2:3: {{@papr}} names no setting and no colour"), "{told}");
    desk.run(&["palette", "export", "--to", "template"]).failed(2);
    desk.run(&["palette", "export", "ebb", "noon", "--to", "css"]).failed(2);
    let json: serde_json::Value = serde_json::from_str(&desk.run(&["palette", "list", "--json"]).clean()).expect("JSON");
    assert_eq!((json["use"].as_str(), json["palettes"]["ebb"]["ink"].as_str()), (Some("noon"), Some("#d9e6e5")));
}

#[test]
fn a_palette_is_checked_for_contrast_and_for_the_colour_blind() {
    let desk = Desk::sample();
    let told = desk.run(&["palette", "check"]).clean();
    assert_snapshot!(told, @"
    ebb, contrast by WCAG 2 of what meets in this rice

       13.5  ink on paper     the name of the workspace one is on
       13.5  ink on paper     the module layout
        9.7  accent on paper  the module tucked when hover
        5.6  muted on paper   the module title
        5.6  muted on paper   the icon of tide
        9.7  accent on paper  the icon of tide when hover
       10.2  warn on paper    the icon of cpu when warn
       10.2  warn on paper    the module cpu when warn
        6.5  alert on paper   the icon of cpu when urgent
        6.5  alert on paper   the module cpu when urgent
        8.1  calm on paper    the widget turn
        8.1  calm on paper    what is drawn of day
       12.0  ink on raise     a line of a menu
        9.7  paper on accent  the picked line of a menu
        4.9  muted on raise   what stands in the dock
       12.0  ink on raise     what stands in the dock when running
        8.6  accent on raise  what stands in the dock when active
        5.8  alert on raise   what stands in the dock when urgent
        5.6  paper on muted   a count in the dock
        6.5  paper on alert   a count in the dock
        4.9  muted on raise   a notice
        8.6  accent on raise  what can be done about a notice
        9.7  paper on accent  the drawing before a row that is picked

    how its colours look

      to most people        #101c1f #d9e6e5 #74d4b1 #7cb9e1 #93d27e #eec060 #f67a6c
      with protanopia       #1a1b1f #e4e4e5 #d0c9af #a7b8e3 #d7c578 #d4bf57 #988f6a
                            good and warn look alike
      with deuteranopia     #17191f #e2e2e5 #c1beb3 #99ade0 #cec083 #dfcb63 #b7a96a
                            good and warn look alike
      with tritanopia       #0a1d1d #d6e7e6 #55d5ca #50c3c6 #90cdbd #ffb1aa #ff6577
                            accent and calm look alike
                            calm and good look alike

    All can be read; 4 pairs of states that some cannot tell apart: say it in words
    or icons too. 23 pairs looked at.
    ");
    let short = desk.run(&["palette", "check", "--with", "palette.ebb.muted=#3a4a50"]);
    assert_eq!(short.code, 1);
    assert!(short.out.contains("4.5 is the least") && short.out.contains("hard to read"), "{}", short.out);
}

#[test]
fn colours_that_are_written_out_become_roles() {
    let desk = Desk::of(
        "[frame]\nactive = \"#75d4b0\" # here\nidle = \"#30404480\"\n[style.bar]\nfill = \"linear-gradient(90deg, #101c1f, #ff00ff)\"\n",
    );
    assert_snapshot!(desk.run(&["palette", "map"]).clean(), @"
    frame.active     #75d4b0    →  @accent    the same                parts/a.toml:2
    frame.idle       #30404480  →  @line/50%  the same                parts/a.toml:3
    style.bar.fill   #101c1f    →  @paper     the same                parts/a.toml:5
    style.bar.fill   #ff00ff    →  @alert     0.28 apart: left alone  parts/a.toml:5

    → jovrik palette map --write      writes 3 roles
    → jovrik palette map --all        takes the far ones too
    ");
    desk.run(&["palette", "map", "--write"]).clean();
    assert_eq!(
        desk.read("parts/a.toml"),
        "[frame]\nactive = \"@accent\" # here\nidle = \"@line/50%\"\n[style.bar]\nfill = \"linear-gradient(90deg, @paper, #ff00ff)\"\n"
    );
    desk.run(&["undo"]).clean();
    assert!(desk.read("parts/a.toml").contains("#75d4b0"));
    assert!(Desk::sample().run(&["palette", "map"]).clean().contains("no colour is written out"));
}

#[test]
fn the_cascade_of_a_style_is_explained() {
    let desk = Desk::sample();
    let why = |path: &str| desk.run(&["why", path]).clean();
    assert_snapshot!(why("style.bar.module.title.ink"), @r#"
    style.bar.module.title.ink is "@muted"
      "@muted"  bar.module.title  parts/look.toml:58  holds
      "@ink"    bar               built in            won over

    its ink #839699 has a contrast of 5.6 on #101c1f, which is enough
    a text property: what is not set comes from the element around it
    "#);
    assert_snapshot!(why("style.menu.item.picked.ink"), @r#"
    style.menu.item.picked.ink is "@paper"
      "@paper"  menu.item.picked  built in  holds
      "@ink"    menu              built in  won over

    its ink #101c1f has a contrast of 9.7 on #74d4b1, which is enough
    a text property: what is not set comes from the element around it
    "#);
    assert_snapshot!(why("style.bar.module.cpu.size"), @"
    style.bar.module.cpu.size is 11
      11  type.size    holds: no style says otherwise

    a text property: what is not set comes from the element around it
    ");
    assert_snapshot!(desk.run(&["why", "style.bar.modul.ink"]).failed(2), @"error  there is no bar modul; did you mean module?");
    assert_snapshot!(desk.run(&["why", "style.bar.inc"]).failed(2), @"error  there is no property inc; did you mean ink?");
    let json = desk.run(&["why", "style.bar.module.title.ink", "--json"]).clean();
    let json: serde_json::Value = serde_json::from_str(&json).expect("JSON");
    assert_eq!(json["chain"][0]["file"].as_str(), Some("parts/look.toml"));
}

#[test]
fn a_watch_tells_each_save_and_draws_what_has_no_errors() {
    let desk = Desk::sample();
    let mut child = desk.command(&desk.rice(), &["watch", "--look", "w.png", "--saves", "2"]);
    let child = child.stdout(std::process::Stdio::piped()).stderr(std::process::Stdio::piped()).spawn().expect("it runs");
    let picture = desk.rice().join("w.png");
    let began = std::time::Instant::now();
    while !picture.exists() && began.elapsed() < std::time::Duration::from_secs(20) {
        std::thread::sleep(std::time::Duration::from_millis(20));
    }
    let before = std::fs::read(&picture).expect("it was drawn");
    std::thread::sleep(std::time::Duration::from_millis(200));
    desk.write("parts/z.toml", "[space]\nedge = \"wide\"\n");
    std::thread::sleep(std::time::Duration::from_millis(1500));
    assert_eq!(std::fs::read(&picture).expect("it stays"), before, "what has errors is not drawn");
    desk.write("parts/z.toml", "[space]\nedge = 40\n");
    let output = child.wait_with_output().expect("it ends after two saves");
    let told = String::from_utf8(output.stdout).expect("UTF-8");
    assert!(
        told.contains("space.edge cannot be \"wide\"") && told.contains("space.edge 12 → 40")
            || told.contains("space.edge \"wide\" → 40"),
        "{told}"
    );
    assert_ne!(std::fs::read(&picture).expect("it stays"), before);
}

#[test]
fn elements_are_listed_where_styles_are_looked_for_and_completed() {
    let desk = Desk::sample();
    let told = desk.run(&["settings", "style.NAME.fill"]).clean();
    assert!(told.contains("menu.item") && told.contains("a line of a menu; picked"), "{told}");
    let told = desk.run(&["settings", "style.dock"]).clean();
    assert!(
        told.starts_with("style.dock\n  dock ") && told.contains("dock.item   something that stands in the dock; urgent"),
        "{told}"
    );
    assert!(!told.contains("menu"), "what is inside it alone: {told}");
    assert_eq!(desk.run(&["settings", "style.dock", "--json"]).clean().lines().count(), 4);
    let told = desk.run(&["settings", "style.menu.item.picked.ink"]).clean();
    assert!(told.contains("default       \"@paper\""), "what is built in: {told}");
    desk.run(&["set", "style.menu.item.picked.ink", "@ink"]).clean();
    assert!(
        desk.read("parts/widgets.toml").contains("[style.menu.item.picked]\nink = \"@ink\""),
        "{}",
        desk.read("parts/widgets.toml")
    );
    assert!(desk.run(&["set", "style.menu.thing.ink", "@ink"]).failed(1).contains("style/unknown-element"));
}
