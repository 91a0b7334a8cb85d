//! Values that reach out of the rice: they start, load or write something. Their types say so, and whoever takes a rice from
//! others is asked before any of them counts.

use std::ops::Deref;

use jovrik_schema::SettingReader;
use jovrik_schema::catalogue::{AtomicSetting, Capability, ValueConstraint, ValueType};
use jovrik_toml::{SpannedValue, ValueError};

use crate::action::Action;

macro_rules! reaching {
    ($(#[$doc:meta])* $name:ident($inner:ty, $target:ty): $reach:expr) => {
        $(#[$doc])*
        #[derive(Debug, Clone, PartialEq, Eq, Default)]
        pub struct $name(pub $inner);

        impl Deref for $name {
            type Target = $target;
            fn deref(&self) -> &$target {
                &self.0
            }
        }

        impl AtomicSetting for $name {
            const KIND: ValueType = ValueType { reach: $reach, ..<$inner as AtomicSetting>::KIND };
            fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
                <$inner as AtomicSetting>::from_node(node, reader).map($name)
            }
        }
    };
}

reaching! {
    /// A line for the shell.
    ShellLine(String, str): Capability::Execute
}
reaching! {
    /// A program with its arguments.
    Argv(Vec<String>, [String]): Capability::Execute
}
/// An action, as it is written.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct ActionText(pub String);

impl Deref for ActionText {
    type Target = str;
    fn deref(&self) -> &str {
        &self.0
    }
}

impl AtomicSetting for ActionText {
    const KIND: ValueType = ValueType {
        name: "action",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "\"open locker\"",
        reach: Capability::Execute,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
        let text = String::from_node(node, reader)?;
        match Action::parse(&text) {
            Ok(_) => Ok(ActionText(text)),
            Err(unknown) => Err(unknown.wrong(&text)),
        }
    }
}

reaching! {
    /// The value of a variable of the environment.
    Variable(String, str): Capability::Environment
}
