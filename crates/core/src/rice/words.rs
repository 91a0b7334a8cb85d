//! Values that are one of some words.

/// Declares named values: the words, and what each means.
macro_rules! named_value {
    // Without a word of its own, the first is what it is by itself.
    (
        #[doc = $about:literal]
        pub enum $kind:ident as $name:literal {
            #[doc = $first_help:literal] $first:ident = $first_word:literal,
            $( $rest:tt )*
        }
    ) => {
        named_value! {
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

        impl $crate::rice::catalogue::OneValue for $kind {
            const KIND: $crate::rice::catalogue::Kind = $crate::rice::catalogue::Kind {
                name: $name,
                unit: "",
                allowed: $crate::rice::catalogue::Allowed::OneOf(&[$first_word, $($word),*]),
                example: "",
                reach: $crate::rice::catalogue::Reach::Inside,
                fields: &[],
            };

            fn from_node(
                node: &$crate::load::Node,
                _: &$crate::load::Reader<'_>,
            ) -> Result<Self, $crate::load::Wrong> {
                match node.text() {
                    Some($first_word) => Ok($kind::$first),
                    $( Some($word) => Ok($kind::$variant), )*
                    _ => Err($crate::load::Wrong::not_one_of(node, &[$first_word, $($word),*])),
                }
            }
        }
    };
}

pub(crate) use named_value;
