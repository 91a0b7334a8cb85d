//! The typed settings, one file per part, and the ONE catalogue that is made of them.

mod bar;
mod choices;
mod desk;
mod dock;
mod follows;
mod greeting;
mod input;
mod key_bindings;
mod launcher;
mod look;
mod manifest;
mod module_source;
mod notifications;
mod overlay;
mod palette;
mod reach;
mod reference_page;
mod references;
mod schema;
mod search;
mod session;
mod style;
mod topics;
mod widget;
mod window_rules;

pub use bar::{Bar, ButtonAction, ButtonActions, Case, Module, Section};
pub use choices::{Choice, actions, choices};
pub use desk::{
    ColumnReveal, LayoutKind, LayoutRule, MonitorMode, MonitorPosition, MonitorRule, NewPosition, OutputRotation, PlacedFile,
    Program, Struts, WorkspaceRule, Workspaces, layout_named,
};
pub use dock::{DockAction, DockHides, DockLabels, DockSettings, SEPARATOR};
pub use follows::{followers, goes_with};
pub use greeting::{ArtRendering, ArtSelection, GreetingSettings, GreetingShell, PaletteRole, ShellKind};
pub use input::{Acceleration, InputKind, InputRule, Speed};
pub use key_bindings::{
    Binding, BindingAction, BindingList, BindingTrigger, ExternalAction, KeyCost, KeysSettings, Lead, ModeBindings, Prefix,
    ScopeBindings, ScopeSettings, SpannedBinding, UnboundKeyPolicy,
};
pub use launcher::{CharacterAction, CustomEntry, LauncherCommand, LauncherPosition, LauncherSettings, launcher_keys};
pub use look::{
    BackdropImages, BackdropOverride, BackdropPattern, BackdropSettings, Fit, FontSettings, Frame, GapSettings, Glow,
    PictureOrder,
};
pub use manifest::{CheckSettings, FORMAT, Manifest, Requirements, RiceInfo};
pub use module_source::{BuiltInSource, ModuleSource, SourceKind};
pub use notifications::{
    DisplayTime, NotificationRule, NotificationSettings, NotificationSort, NotificationTimes, ScreenCorner, Urgency,
};
pub use overlay::{OverlayCondition, OverlayConditions, OverlayFile, OverlayHead, Verdict};
pub use palette::{Palette, Palettes, TerminalColours};
pub use reach::reach_of;
pub use reference_page::{allowed, every_setting, reference};
pub use schema::schema;
pub use search::{SearchableSetting, all as all_settings, meant, search};
pub use session::{
    AutostartEntry, AutostartTrigger, ColourPreference, Cursor, IdleActions, IdleSettings, KeyboardSettings, Repeat, Restart,
    Toolkit,
};
pub use style::{BUILT_IN_STYLES, StyleRule, StyleSheet, TEXT_PROPERTIES, built_in_style};
pub use window_rules::{
    ButtonChord, FocusPolicy, PointerSettings, RuleSettings, WindowKind, WindowMatch, WindowOverrides, WindowPosition, WindowSize,
};

pub use topics::{Block, TOPICS, Topic};
pub use widget::{Anchor, Offset, RelativePosition, ScaleBound, Widget, WidgetKind, WidgetPosition, WidgetRepeat};

use std::rc::Rc;

use jovrik_schema::catalogue::{Setting, SettingTable, table_of};
use jovrik_schema::{Glob, NamedMap, PathMap, ReadCursor, SettingReader, name_of, settings};
use jovrik_values::{Icon, IconRef, Variable};

settings! {
    /// a whole desktop
    pub struct Rice {
        /// colours by their role
        #[also = "theme, themes, colors, colours, color, colour, colorscheme"]
        palette: Palettes,
        /// fonts
        #[also = "font, fonts, text"]
        r#type: FontSettings,
        /// gaps
        #[also = "gaps, gap, spacing"]
        space: GapSettings,
        /// borders of windows
        #[also = "border, borders, decoration, decorations"]
        frame: Frame,
        /// what lies behind the windows
        #[also = "wallpaper, background, desktop"]
        backdrop: BackdropSettings,
        /// monitors
        #[also = "output, outputs, screen, screens, display, displays, monitors"]
        monitor: NamedMap<MonitorRule>,
        /// workspaces
        #[also = "desktops, tags"]
        workspaces: Workspaces,
        /// one workspace
        workspace: NamedMap<WorkspaceRule>,
        /// layouts
        #[also = "layouts, tiling"]
        layout: NamedMap<LayoutRule>,
        /// the pointer
        #[also = "mouse, cursor, focus"]
        pointer: PointerSettings,
        /// rules for windows
        #[also = "rules, window rules, window, windows"]
        rule: NamedMap<RuleSettings>,
        /// programs that actions name
        #[also = "programs, apps, applications, default apps"]
        program: NamedMap<Program>,
        /// what starts by itself
        #[also = "autostart, startup, exec, run"]
        start: NamedMap<AutostartEntry>,
        /// variables for everything the desk starts
        #[also = "env, variables"]
        environment: NamedMap<Variable>,
        /// the keyboard that live sets up
        #[also = "xkb, keymap"]
        keyboard: KeyboardSettings,
        /// devices that move the pointer or have keys
        #[also = "touchpad, devices, inputs"]
        input: NamedMap<InputRule>,
        /// what happens when nobody is there
        #[also = "lock, screensaver, screen lock"]
        idle: IdleSettings,
        /// what other programs are told
        #[also = "gtk, appearance, theming"]
        toolkit: Toolkit,
        /// other readers of the keyboard
        scope: NamedMap<ScopeSettings>,
        /// key bindings
        #[also = "bind, binds, bindings, keybindings, keybinds, hotkeys, shortcuts"]
        keys: KeysSettings,
        /// bars
        #[also = "bars, panel, panels, status bar, statusbar"]
        bar: NamedMap<Bar>,
        /// pieces of bars
        #[also = "modules, blocks, block"]
        module: NamedMap<Module>,
        /// what lies on the backdrop and shows values
        #[also = "widgets, desktop widget, gauges"]
        widget: NamedMap<Widget>,
        /// what programs want to tell
        #[also = "notifications, notification, notify"]
        notices: NotificationSettings,
        /// lists to choose from
        #[also = "menu, app menu"]
        launcher: LauncherSettings,
        /// programs at an edge of the screen
        #[also = "taskbar, task bar"]
        dock: DockSettings,
        /// what a new shell shows
        #[also = "shell, fetch"]
        greeting: GreetingSettings,
        /// icons of windows by app, and by the program's name
        #[also = "icon"]
        icons: NamedMap<IconRef>,
        /// how everything drawn looks, element by element
        #[also = "styles, styling"]
        style: StyleSheet,
        /// files put into the home folder
        #[also = "files, dotfiles, links"]
        place: PathMap<PlacedFile>,
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
    pub fn read_again(reader: &mut SettingReader<'_>, at: &ReadCursor<'_>, before: &Rice, same: &dyn Fn(&str) -> bool) -> Rice {
        if same("palette") {
            reader.palette = Some(Rc::new(before.palette.current.clone()));
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
    pub fn layouts(&self) -> crate::keys::RuleNames {
        self.with_variants(&self.keys.must_work_on)
    }

    /// The layouts that the keyboard is given, as XKB names them.
    pub fn keyboard_layouts(&self) -> crate::keys::RuleNames {
        self.with_variants(&self.keyboard.layouts)
    }

    fn with_variants(&self, names: &[String]) -> crate::keys::RuleNames {
        let own = &self.keyboard;
        let variant = |name: &String| {
            let at = own.layouts.iter().position(|other| other == name)?;
            own.variant.get(at).map(String::as_str)
        };
        let one = |name: &String| crate::keys::RuleNames::parse(name, variant(name).unwrap_or_default());
        let layouts = names.iter().map(one).collect();
        crate::keys::RuleNames { model: own.model.clone(), layouts, options: own.options.clone() }
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
    pub const CATALOGUE: &'static SettingTable = table_of(<Rice as Setting>::SHAPE);

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
    pub const CATALOGUE: &'static SettingTable = table_of(<Manifest as Setting>::SHAPE);
}
