//! The typed settings, one file per part, and the ONE catalogue that is made of them.

mod bar;
pub mod catalogue;
mod choices;
mod condition;
mod desk;
mod dock;
mod every;
mod expression;
mod fill;
mod follows;
mod greeting;
mod icon;
mod input;
mod keys;
mod kinds;
mod launcher;
mod look;
mod manifest;
mod notices;
mod overlay;
mod palette;
mod reach;
mod rules;
mod schema;
mod search;
mod session;
mod source;
mod style;
mod topics;
pub mod trade_words;
mod widget;
mod words;

pub use bar::{Align, Bar, Case, Does, Module, Press, Section};
pub use choices::{Choice, actions, choices};
pub use condition::{Against, Compare, Comparison, Condition, Conditions, Grades};
pub use desk::{
    LayoutKind, LayoutRule, Mode, MonitorPlace, MonitorRule, NewPlace, PlacedFile, Program, Reserve, Rotate, Side, WhenCut,
    WorkspaceRule, Workspaces, layout_named,
};
pub use dock::{Dock, DockHides, DockLabels, DockOwn, SEPARATOR};
pub use every::{allowed, every_setting, reference};
pub use expression::{Expression, NoExpression};
pub use fill::{Corners, Fill, Gradient, Line, LineAt, Opacity, Sides};
pub use follows::{followers, goes_with};
pub use greeting::{ArtAs, ArtPick, Greeting, Greets, Role, ShellKind};
pub use icon::{Icon, IconRef};
pub use input::{Acceleration, InputKind, InputRule, Speed};
pub use keys::{Binding, BindingAt, Chords, Deed, KeyCost, Keys, Lead, ModeKeys, On, Others, Prefix, Says, Scope, ScopeKeys};
pub use kinds::{Colour, Files, Glob, Inline, Length, Named, Points, Px, Scale, Span, Weight, Whole};
pub use launcher::{CharacterGoes, Launcher, LauncherKey, LauncherPlace, OwnLine, launcher_keys};
pub use look::{Backdrop, Drawing, Fit, Frame, Glow, OwnBackdrop, PictureOrder, Pictures, Space, Type};
pub use manifest::{About, Accepts, FORMAT, Manifest, Needs};
pub use notices::{Lasting, NoticeRule, NoticeSort, NoticeTimes, Notices, ScreenCorner, Urgency};
pub use overlay::{Asks, OverlayFile, OverlayHead, Verdict, When};
pub use palette::{Palette, Palettes, Sixteen};
pub use reach::{ActionText, Argv, ShellLine, Variable, reach_of};
pub use rules::{ButtonChord, Match, Pointer, PointerFocus, Rule, RuleSet, WindowKind, WindowPattern, WindowPlace, WindowSize};
pub use schema::schema;
pub use search::{Sought, all as all_settings, meant, search};
pub use session::{After, Cursor, Idle, Keyboard, Prefer, Repeat, Restart, Start, StartWhen, Toolkit};
pub use source::{BuiltIn, ModuleSource, Pick, PickBy, SourceKind};
pub use style::{BUILT_IN_STYLES, StyleRule, Styles, TEXT_PROPERTIES, built_in_style};

pub use topics::{Block, TOPICS, Topic};
pub use widget::{Anchor, End, Offset, ToOther, Widget, WidgetEach, WidgetKind, WidgetPlace};

use catalogue::{Setting, Table, name_of, settings, table_of};

use crate::load::{At, Reader};

settings! {
    /// a whole desktop
    pub struct Rice {
        /// colours by their role
        #[also = "theme, themes, colors, colours, color, colour, colorscheme"]
        palette: Palettes,
        /// fonts
        #[also = "font, fonts, text"]
        r#type: Type,
        /// gaps
        #[also = "gaps, gap, spacing"]
        space: Space,
        /// borders of windows
        #[also = "border, borders, decoration, decorations"]
        frame: Frame,
        /// what lies behind the windows
        #[also = "wallpaper, background, desktop"]
        backdrop: Backdrop,
        /// monitors
        #[also = "output, outputs, screen, screens, display, displays, monitors"]
        monitor: Named<MonitorRule>,
        /// workspaces
        #[also = "desktops, tags"]
        workspaces: Workspaces,
        /// one workspace
        workspace: Named<WorkspaceRule>,
        /// layouts
        #[also = "layouts, tiling"]
        layout: Named<LayoutRule>,
        /// the pointer
        #[also = "mouse, cursor, focus"]
        pointer: Pointer,
        /// rules for windows
        #[also = "rules, window rules, window, windows"]
        rule: Named<Rule>,
        /// programs that actions name
        #[also = "programs, apps, applications, default apps"]
        program: Named<Program>,
        /// what starts by itself
        #[also = "autostart, startup, exec, run"]
        start: Named<Start>,
        /// variables for everything the desk starts
        #[also = "env, variables"]
        environment: Named<Variable>,
        /// the keyboard that live sets up
        #[also = "xkb, keymap"]
        keyboard: Keyboard,
        /// devices that move the pointer or have keys
        #[also = "touchpad, devices, inputs"]
        input: Named<InputRule>,
        /// what happens when nobody is there
        #[also = "lock, screensaver, screen lock"]
        idle: Idle,
        /// what other programs are told
        #[also = "gtk, appearance, theming"]
        toolkit: Toolkit,
        /// other readers of the keyboard
        scope: Named<Scope>,
        /// key bindings
        #[also = "bind, binds, bindings, keybindings, keybinds, hotkeys, shortcuts"]
        keys: Keys,
        /// bars
        #[also = "bars, panel, panels, status bar, statusbar"]
        bar: Named<Bar>,
        /// pieces of bars
        #[also = "modules, blocks, block"]
        module: Named<Module>,
        /// what lies on the backdrop and shows values
        #[also = "widgets, desktop widget, gauges"]
        widget: Named<Widget>,
        /// what programs want to tell
        #[also = "notifications, notification, notify"]
        notices: Notices,
        /// lists to choose from
        #[also = "menu, app menu"]
        launcher: Launcher,
        /// programs at an edge of the screen
        #[also = "taskbar, task bar"]
        dock: Dock,
        /// what a new shell shows
        #[also = "shell, fetch"]
        greeting: Greeting,
        /// icons of windows by app, and by the program's name
        #[also = "icon"]
        icons: Named<IconRef>,
        /// how everything drawn looks, element by element
        #[also = "styles, styling"]
        style: Styles,
        /// files put into the home folder
        #[also = "files, dotfiles, links"]
        place: Files<PlacedFile>,
    }
}

/// Reads a rice of which some tables are known: all of them, or it does not compile.
macro_rules! read_again {
    ($reader:ident, $at:ident, $before:ident, $same:ident, $($field:ident)*) => {
        Rice { $( $field: if $same(name_of!($field)) {
            $before.$field.clone()
        } else {
            Setting::read($reader, &$at.field(name_of!($field), None))
        }, )* }
    };
}

impl Rice {
    /// Reads a rice anew of which the tables that are the `same` were read `before`.
    pub fn read_again(reader: &mut Reader<'_>, at: &At<'_>, before: &Rice, same: &dyn Fn(&str) -> bool) -> Rice {
        if same("palette") {
            reader.palette = Some(before.palette.current.clone());
        }
        read_again!(reader, at, before, same,
            palette r#type space frame backdrop monitor workspaces workspace layout pointer rule program start environment
            keyboard input idle toolkit scope keys bar module widget notices launcher dock greeting icons style place
        )
    }

    /// The icon of a window, by its app: the first pattern of `[icons]` that it matches.
    pub fn icon_of(&self, app: &str) -> IconRef {
        let app = app.to_lowercase();
        let matches = |pattern: &String| Glob(pattern.to_lowercase()).matches(&app);
        let found = self.icons.iter().find(|(pattern, _)| matches(pattern)).map(|(_, icon)| icon.clone());
        found.unwrap_or(IconRef::Drawn(Icon::Window))
    }

    /// All workspaces, in their order.
    pub fn workspace_names(&self) -> Vec<&str> {
        let mut all: Vec<&str> = self.workspaces.order.iter().map(String::as_str).collect();
        for name in self.monitor.values().flat_map(|rule| &rule.workspaces) {
            if !all.contains(&name.as_str()) {
                all.push(name);
            }
        }
        all
    }

    /// The layouts that the bindings are held to, as XKB names them.
    pub fn layouts(&self) -> crate::keys::Layouts {
        self.with_variants(&self.keys.must_work_on)
    }

    /// The layouts that the keyboard is given, as XKB names them.
    pub fn keyboard_layouts(&self) -> crate::keys::Layouts {
        self.with_variants(&self.keyboard.layouts)
    }

    fn with_variants(&self, names: &[String]) -> crate::keys::Layouts {
        let own = &self.keyboard;
        let variant = |name: &String| {
            let at = own.layouts.iter().position(|other| other == name)?;
            own.variant.get(at).map(String::as_str)
        };
        let one = |name: &String| crate::keys::Layouts::parse(name, variant(name).unwrap_or_default());
        let layouts = names.iter().map(one).collect();
        crate::keys::Layouts { model: own.model.clone(), layouts, options: own.options.clone() }
    }

    /// The pictures that it shows, and the folders of them: of its own folder, or of the home where they begin with `~/`.
    pub fn pictures(&self) -> Vec<&str> {
        let monitors = self.monitor.values().map(|rule| &rule.backdrop.picture);
        let workspaces = self.workspace.values().map(|rule| &rule.backdrop.picture);
        let backdrops = std::iter::once(&self.backdrop.picture).chain(monitors).chain(workspaces);
        let icons = self.module.values().map(|module| &module.icon).chain(self.workspace.values().map(|rule| &rule.icon));
        let icons = icons.chain(self.icons.iter().map(|(_, icon)| icon));
        let icons = icons.filter_map(|icon| if let IconRef::Picture(path) = icon { Some(path.as_str()) } else { None });
        let widgets = self.widget.values().map(|widget| widget.picture.as_str()).filter(|path| !path.is_empty());
        let backdrops = backdrops.flatten().flat_map(|pictures| pictures.0.iter().map(|(_, path)| path.as_str()));
        backdrops.chain(icons).chain(widgets).collect()
    }

    /// What its modules run, each with its arguments.
    pub fn module_commands(&self) -> impl Iterator<Item = &[String]> {
        self.module.values().filter_map(|module| module.source.kind.command())
    }

    /// The catalogue of all settings.
    pub const CATALOGUE: &'static Table = table_of(<Rice as Setting>::SHAPE);

    /// The layouts that a workspace cycles through, each with its name; never empty.
    pub fn layouts_of(&self, workspace: &str) -> Vec<(String, LayoutRule)> {
        let own = self.workspace.get(workspace).map(|rule| &rule.layouts).filter(|own| !own.is_empty());
        let names = own.unwrap_or(&self.workspaces.layouts);
        let known = |name: &String| layout_named(&self.layout, name).map(|rule| (name.clone(), rule));
        let mut layouts: Vec<_> = names.iter().filter_map(known).collect();
        if layouts.is_empty() {
            layouts.extend(known(&"main".to_owned()));
        }
        layouts
    }
}

impl Manifest {
    /// The catalogue of the manifest.
    pub const CATALOGUE: &'static Table = table_of(<Manifest as Setting>::SHAPE);
}
