//! A desktop on a display that is only pretended.

use std::collections::BTreeSet;
use std::rc::Rc;
use std::time::Duration;

use jovrik_core::bar::{BarLayout, ModuleContent};
use jovrik_core::desk::{self, MonitorFacts, WindowFacts, WindowId};
use jovrik_core::desktop::{Desktop, DesktopEvent, Surface};
use jovrik_core::keys::{KeyCombo, KeyboardLayout, KeyboardLayouts, Scopes};
use jovrik_core::rice::Rice;
use jovrik_core::stage::{FixedWidthMeasure, Headless};
use jovrik_values::PixelRect;
use jovrik_values::action::Action;
use jovrik_values::chord::ChordSequence;

use crate::checked;

/// A desktop on a display that is only pretended.
pub struct Pretended {
    pub desktop: Desktop,
    pub stage: Headless,
    pub now: Duration,
    /// Other settings than the first.
    pub others: Vec<(Rc<Rice>, Rc<Scopes>)>,
}

impl std::ops::Deref for Pretended {
    type Target = Headless;
    fn deref(&self) -> &Headless {
        &self.stage
    }
}

impl std::ops::DerefMut for Pretended {
    fn deref_mut(&mut self) -> &mut Headless {
        &mut self.stage
    }
}

pub fn us() -> &'static KeyboardLayout {
    KeyboardLayout::us()
}

pub fn press(chord: &str) -> KeyCombo {
    us().presses(&ChordSequence::parse(chord, "Super").expect("a chord").0[0])[0]
}

pub fn monitor(name: &str, x: i32) -> MonitorFacts {
    MonitorFacts::new(name.to_owned(), PixelRect::new(x, 0, 1000, 800))
}

impl Pretended {
    pub fn of(part: &str) -> Pretended {
        let rice = checked(part);
        let wrong: Vec<&str> = rice.problems.iter().map(|problem| problem.title.as_str()).collect();
        assert_eq!(rice.errors(), 0, "{wrong:?}");
        let mut pretended = Pretended {
            desktop: Desktop::new(rice.rice.clone(), rice.scopes.clone(), vec![monitor("A", 0)]),
            stage: Headless { missing: ["nowhere".to_owned()].into(), ..Headless::default() },
            now: Duration::ZERO,
            others: Vec::new(),
        };
        pretended.tell(DesktopEvent::Keyboards(KeyboardLayouts::new(Vec::new(), false), 0));
        pretended
    }

    /// Hands over an event, does what comes of it, and answers.
    pub fn tell(&mut self, event: DesktopEvent) {
        self.stage.tell(&mut self.desktop, event, self.now);
    }

    pub fn act(&mut self, action: &str) {
        self.tell(DesktopEvent::Act(Action::parse(action).expect("an action")));
    }

    pub fn down(&mut self, chord: &str) {
        self.tell(DesktopEvent::KeyPressed(press(chord)));
    }

    pub fn strike(&mut self, chord: &str) {
        self.down(chord);
        self.tell(DesktopEvent::KeyReleased(press(chord).key));
    }

    /// Time passes.
    pub fn wait(&mut self, millis: u64) {
        self.now += Duration::from_millis(millis);
        self.stage.wait(&mut self.desktop, self.now);
    }

    pub fn surface(&self, part: &str) -> Option<Rc<Surface>> {
        self.shown.iter().find(|surface| surface.id.part == part).cloned()
    }

    /// The middle of a module of the first bar.
    pub fn module(&self, name: &str) -> (i32, i32) {
        let bar = self.surface("bar").expect("a bar");
        let strip: &BarLayout = bar.content().expect("a strip");
        let rect = strip.modules.iter().find(|shown| shown.name == name).expect("it is shown").rect;
        ((rect.x + rect.w / 2.0) as i32, (rect.y + rect.h / 2.0) as i32)
    }

    pub fn text(&self, name: &str) -> Option<String> {
        let bar = self.surface("bar")?;
        let strip: &BarLayout = bar.content()?;
        strip.modules.iter().find(|shown| shown.name == name).map(|shown| match &shown.what {
            ModuleContent::Text { text, .. } => text.clone(),
            other => format!("{other:?}"),
        })
    }

    pub fn click(&mut self, part: &str, button: u8, (x, y): (i32, i32)) {
        let id = self.surface(part).map(|surface| surface.id.clone());
        self.tell(DesktopEvent::Button(id, button, x, y));
    }

    pub fn open(&mut self, id: u32, app: &str) {
        let facts = WindowFacts { app_id: app.to_owned(), title: app.to_owned(), ..WindowFacts::default() };
        self.tell(DesktopEvent::Wm(desk::WmEvent::Mapped(WindowId(id), facts)));
    }

    pub fn workspace(&self) -> &str {
        let desk = self.desktop.desk();
        &desk.workspaces[desk.workspace()].name
    }

    /// What is shown is what the desktop would show if it began anew: nothing was kept that changed.
    pub fn is_fresh(&self) {
        let kept: BTreeSet<String> = self.desktop.surfaces().map(|surface| format!("{surface:?}")).collect();
        let shown: BTreeSet<String> = self.shown.iter().map(|surface| format!("{surface:?}")).collect();
        assert_eq!(kept, shown, "the display shows what the desktop thinks it shows");
        let mut anew: BTreeSet<String> = BTreeSet::new();
        for surface in self.desktop.fresh(&mut FixedWidthMeasure(10.0)) {
            anew.insert(format!("{surface:?}"));
        }
        assert_eq!(kept, anew, "what was kept is what would be arranged anew");
    }
}

/// A rice with something of everything.
pub const RICE: &str = "[workspaces]\norder = [\"one\", \"two\", \"three\"]\nlayouts = [\"main\", \"ribbon\", \"tabs\", \"halving\", \"free\", \"grid\", \"solo\"]\n\
[rule.odd]\nmatch = { app = \"odd\" }\nset = { workspace = \"three\", size = [\"90%\", 10], at = \"pointer\", frame = false }\n\
[program]\nterminal = \"xterm\"\nlost = \"nowhere\"\n\
[bar.top]\nthick = 30\nstart = [\"marks\", \"more\", \"mode\", \"chords\"]\nend = [\"word\", \"load\", \"tray\"]\n\
[module.marks]\nsource = \"workspaces\"\n[module.mode]\nsource = \"mode\"\ntext = \"{name}\"\n\
[module.chords]\nsource = \"sequence\"\ntext = \"{keys}\"\n[module.tray]\nsource = \"tray\"\n\
[module.word]\ntext = \"word\"\nhover = \"says this\"\npress = { left = \"go two\", right = [{ label = \"Three\", do = \"go three\" }, { label = \"Files\", do = \"run files\" }] }\n\
[module.load]\nsource = \"cpu\"\ntext = \"{load:.0}\"\nempty = \"-\"\n\
[module.more]\ntext = \"more\"\ngroup = [\"load\"]\n\
[widget.ring]\nkind = \"ring\"\nmodule = \"load\"\nat = \"bottom-right\"\npress = { left = \"go two\" }\n[widget.says]\ntext = \"here\"\nat = \"inside ring\"\nworkspace = \"two\"\n\
[dock]\nkeep = [\"terminal\", \"-\", \"lost\"]\nrunning = true\nhide = \"overlapped\"\ngrown = 40\n\
[keys]\nsequence-wait = \"1s\"\n[keys.desk]\n\"Lead+Return\" = \"open terminal\"\n\"Lead+o\" = \"open lost\"\n\"Lead+g l\" = \"go two\"\n\
\"Lead+s\" = \"mode sizing\"\n\"Lead+p\" = \"mode passing\"\n\"Lead+k\" = \"keys sheet\"\n\"F5\" = \"press Lead+g l F6\"\n\"F7\" = \"press Shift+b\"\n\
\"Lead+r\" = { do = \"go three\", on = \"release\" }\n\
[keys.desk.modes.sizing]\nothers = \"eat\"\n\"h\" = \"main grow\"\n\"Escape\" = \"mode leave\"\n\
[keys.desk.modes.passing]\nothers = \"pass\"\n\"h\" = \"go three\"\n\"Escape\" = \"mode leave\"\n";
