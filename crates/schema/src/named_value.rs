//! Values that are one of some words.

/// Declares named values: the words, and what each means.
#[macro_export]
macro_rules! named_value {
    // Without a word of its own, the first is what it is by itself.
    (
        #[doc = $about:literal]
        pub enum $kind:ident as $name:literal {
            #[doc = $first_help:literal] $first:ident = $first_word:literal,
            $( $rest:tt )*
        }
    ) => {
        $crate::named_value! {
            #[doc = $about]
            pub enum $kind as $name or $first {
                #[doc = $first_help] $first = $first_word,
                $( $rest )*
            }
        }
    };
    (
        #[doc = $about:literal]
        pub enum $kind:ident as $name:literal or $default:ident {
            #[doc = $first_help:literal] $first:ident = $first_word:literal,
            $( #[doc = $help:literal] $variant:ident = $word:literal, )*
        }
    ) => {
        #[doc = $about]
        #[derive(Debug, Clone, Copy, PartialEq, Eq)]
        pub enum $kind {
            #[doc = $first_help]
            $first,
            $( #[doc = $help] $variant, )*
        }

        impl Default for $kind {
            fn default() -> Self {
                $kind::$default
            }
        }

        impl $kind {
            /// All of them, in order.
            pub const ALL: &'static [$kind] = &[$kind::$first, $($kind::$variant),*];

            /// Its word in a rice.
            pub fn word(self) -> &'static str {
                match self {
                    $kind::$first => $first_word,
                    $( $kind::$variant => $word, )*
                }
            }
        }

        impl $crate::catalogue::AtomicSetting for $kind {
            const KIND: $crate::catalogue::ValueType = $crate::catalogue::ValueType {
                name: $name,
                unit: "",
                allowed: $crate::catalogue::ValueConstraint::OneOf(&[$first_word, $($word),*]),
                example: "",
                reach: $crate::catalogue::Capability::None,
                fields: &[],
            };

            fn from_node(
                node: &jovrik_toml::SpannedValue,
                _: &$crate::SettingReader<'_>,
            ) -> Result<Self, jovrik_toml::ValueError> {
                match node.text() {
                    Some($first_word) => Ok($kind::$first),
                    $( Some($word) => Ok($kind::$variant), )*
                    _ => Err(jovrik_toml::ValueError::not_one_of(node, &[$first_word, $($word),*])),
                }
            }
        }
    };
}
