//! Values that programs send over the bus, taken in typed and within limits: what is large is looked at where it lies in the
//! message, shrunk at once or passed over, and never becomes a value of its own byte by byte.

use std::collections::HashMap;
use std::fmt;

use jovrik_draw::RawImage;
use jovrik_text::limits::{self, cut};
use serde::de::{Deserialize, Deserializer, Error as _, IgnoredAny, MapAccess, SeqAccess, Visitor};
use zbus::Signature;
use zbus::zvariant::{OwnedVariant, Type};

/// A picture: its size, and R, G, B, A of each pixel.
pub type Pixels = ((u32, u32), Vec<u8>);

/// A value of a kind that somebody here asks for.
#[derive(Debug, Clone, PartialEq)]
pub enum PropertyValue {
    /// A text, the path of an object or a signature; a long one is cut.
    Text(String),
    /// A whole number of any size.
    Number(i64),
    /// A truth.
    Truth(bool),
    /// A picture that can be read, made small.
    Picture(Pixels),
    /// Anything else.
    Other,
}

/// Values by their names (`a{sv}`), as many as anybody means.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct PropertyMap(HashMap<String, PropertyValue>);

/// The texts of a list, so many at most.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct TextArray<const MAX_TEXTS: usize>(pub Vec<String>);

/// An entry of a menu (`(ia{sv}av)`), with those in it.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Entry {
    /// Its number.
    pub id: i32,
    /// What it says of itself.
    pub facts: PropertyMap,
    /// The entries in it.
    pub inner: Vec<Entry>,
}

impl PropertyMap {
    /// A text; an empty one where there is none.
    pub fn text(&self, name: &str) -> &str {
        match self.0.get(name) {
            Some(PropertyValue::Text(text)) => text,
            _ => "",
        }
    }

    /// A whole number.
    pub fn number(&self, name: &str) -> Option<i64> {
        match self.0.get(name) {
            Some(PropertyValue::Number(number)) => Some(*number),
            _ => None,
        }
    }

    /// A truth.
    pub fn truth(&self, name: &str) -> Option<bool> {
        match self.0.get(name) {
            Some(PropertyValue::Truth(truth)) => Some(*truth),
            _ => None,
        }
    }

    /// A picture, which is taken out.
    pub fn picture(&mut self, name: &str) -> Option<Pixels> {
        match self.0.remove(name)? {
            PropertyValue::Picture(picture) => Some(picture),
            _ => None,
        }
    }
}

impl Type for PropertyMap {
    const SIGNATURE: &'static Signature = <HashMap<String, OwnedVariant> as Type>::SIGNATURE;
}

impl<const MAX_TEXTS: usize> Type for TextArray<MAX_TEXTS> {
    const SIGNATURE: &'static Signature = <Vec<String> as Type>::SIGNATURE;
}

impl Type for Entry {
    const SIGNATURE: &'static Signature = <(i32, HashMap<String, OwnedVariant>, Vec<OwnedVariant>) as Type>::SIGNATURE;
}

/// A picture as it is sent: width, height, bytes from row to row, opacity, bits of a sample, channels, pixels.
type Rows<'m> = (i32, i32, i32, bool, i32, i32, &'m [u8]);
/// A picture of an item: width, height, and A, R, G, B of each pixel.
type Pixmap<'m> = (i32, i32, &'m [u8]);

fn picture_of((width, height, stride, alpha, bits, channels, bytes): Rows<'_>) -> PropertyValue {
    let plain = bits == 8 && channels == if alpha { 4 } else { 3 };
    let sent = RawImage { width, height, stride, alpha, bytes };
    plain.then(|| sent.picture(limits::SENT_PICTURE_SIDE as u32)).flatten().map_or(PropertyValue::Other, PropertyValue::Picture)
}

/// The picture nearest above 16 pixels among several.
struct Nearest(Option<Pixels>);

impl<'de> Deserialize<'de> for Nearest {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct Pictures;
        impl<'de> Visitor<'de> for Pictures {
            type Value = Nearest;
            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("pictures")
            }
            fn visit_seq<A: SeqAccess<'de>>(self, mut seq: A) -> Result<Nearest, A::Error> {
                let largest = limits::TRAY_PICTURE_SIDE as i32;
                let distance = |width: i32| if width >= 16 { width - 16 } else { 1000 + 16 - width };
                let mut best: Option<Pixmap<'de>> = None;
                while let Some(one) = seq.next_element::<Pixmap<'de>>()? {
                    let (width, height, bytes) = one;
                    let fair = (1..=largest).contains(&width) && (1..=largest).contains(&height);
                    let whole = fair && bytes.len() == (width * height * 4) as usize;
                    if whole && best.is_none_or(|(other, ..)| distance(width) < distance(other)) {
                        best = Some(one);
                    }
                }
                Ok(Nearest(best.map(|(width, height, bytes)| {
                    let rgba = bytes.as_chunks::<4>().0.iter().flat_map(|[a, r, g, b]| [*r, *g, *b, *a]).collect();
                    ((width as u32, height as u32), rgba)
                })))
            }
        }
        deserializer.deserialize_seq(Pictures)
    }
}

/// Reads a variant by what its signature says.
struct OfVariant;

impl<'de> Visitor<'de> for OfVariant {
    type Value = PropertyValue;

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("a variant")
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut seq: A) -> Result<PropertyValue, A::Error> {
        let missing = || A::Error::invalid_length(0, &"a variant");
        let signature: Signature = seq.next_element()?.ok_or_else(missing)?;
        macro_rules! value {
            ($kind:ty) => {
                seq.next_element::<$kind>()?.ok_or_else(missing)?
            };
        }
        Ok(match signature.to_string().as_str() {
            "s" | "o" | "g" => PropertyValue::Text(cut(value!(&str), limits::BUS_TEXT).to_owned()),
            "y" => PropertyValue::Number(value!(u8).into()),
            "n" => PropertyValue::Number(value!(i16).into()),
            "q" => PropertyValue::Number(value!(u16).into()),
            "i" => PropertyValue::Number(value!(i32).into()),
            "u" => PropertyValue::Number(value!(u32).into()),
            "x" => PropertyValue::Number(value!(i64)),
            "b" => PropertyValue::Truth(value!(bool)),
            "(iiibiiay)" => picture_of(value!(Rows<'de>)),
            "a(iiay)" => value!(Nearest).0.map_or(PropertyValue::Other, PropertyValue::Picture),
            // Bytes are passed over as one.
            "ay" => {
                let _ = value!(&[u8]);
                PropertyValue::Other
            }
            _ => {
                let _ = value!(IgnoredAny);
                PropertyValue::Other
            }
        })
    }
}

impl<'de> Deserialize<'de> for PropertyValue {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        deserializer.deserialize_struct("Variant", &["signature", "value"], OfVariant)
    }
}

impl<'de> Deserialize<'de> for PropertyMap {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct OfDict;
        impl<'de> Visitor<'de> for OfDict {
            type Value = PropertyMap;
            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("values by their names")
            }
            fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<PropertyMap, A::Error> {
                let mut facts = HashMap::new();
                while let Some(name) = map.next_key::<&str>()? {
                    let fact: PropertyValue = map.next_value()?;
                    if facts.len() < limits::BUS_FACTS && name.len() <= limits::BUS_NAME {
                        facts.insert(name.to_owned(), fact);
                    }
                }
                Ok(PropertyMap(facts))
            }
        }
        deserializer.deserialize_map(OfDict)
    }
}

/// Takes in the first of a list, and passes over the others.
struct First<T>(usize, std::marker::PhantomData<T>);

impl<'de, T: Deserialize<'de>> Visitor<'de> for First<T> {
    type Value = Vec<T>;
    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("a list")
    }
    fn visit_seq<A: SeqAccess<'de>>(self, mut seq: A) -> Result<Vec<T>, A::Error> {
        let mut all = Vec::new();
        while all.len() < self.0 {
            match seq.next_element()? {
                Some(one) => all.push(one),
                None => return Ok(all),
            }
        }
        while seq.next_element::<T>()?.is_some() {}
        Ok(all)
    }
}

impl<'de, const MAX_TEXTS: usize> Deserialize<'de> for TextArray<MAX_TEXTS> {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        let texts = deserializer.deserialize_seq(First::<&str>(MAX_TEXTS, std::marker::PhantomData))?;
        Ok(TextArray(texts.into_iter().map(|text| cut(text, limits::BUS_TEXT).to_owned()).collect()))
    }
}

/// An entry in a variant of its own.
struct Boxed(Entry);

impl<'de> Deserialize<'de> for Boxed {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct OfBox;
        impl<'de> Visitor<'de> for OfBox {
            type Value = Boxed;
            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("an entry")
            }
            fn visit_seq<A: SeqAccess<'de>>(self, mut seq: A) -> Result<Boxed, A::Error> {
                let missing = || A::Error::invalid_length(0, &"an entry");
                let signature: Signature = seq.next_element()?.ok_or_else(missing)?;
                if signature != *Entry::SIGNATURE {
                    seq.next_element::<IgnoredAny>()?.ok_or_else(missing)?;
                    return Ok(Boxed(Entry::default()));
                }
                Ok(Boxed(seq.next_element()?.ok_or_else(missing)?))
            }
        }
        deserializer.deserialize_struct("Variant", &["signature", "value"], OfBox)
    }
}

impl<'de> Deserialize<'de> for Entry {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct Inner(Vec<Entry>);
        impl<'de> Deserialize<'de> for Inner {
            fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
                let inner = deserializer.deserialize_seq(First::<Boxed>(limits::MENU_LINES, std::marker::PhantomData))?;
                Ok(Inner(inner.into_iter().map(|boxed| boxed.0).collect()))
            }
        }
        let (id, facts, inner) = <(i32, PropertyMap, Inner)>::deserialize(deserializer)?;
        Ok(Entry { id, facts, inner: inner.0 })
    }
}

#[cfg(test)]
mod tests {
    use zbus::Message;
    use zbus::zvariant::Variant;

    use super::*;

    fn message<B: serde::Serialize + Type>(body: &B) -> Message {
        Message::method_call("/", "Notify").build(body).expect("a message")
    }

    fn taken<'m, T: Deserialize<'m> + Type>(message: &'m zbus::message::Body) -> T {
        message.deserialize().expect("it is taken in")
    }

    #[test]
    fn values_are_taken_in_by_their_kinds_and_others_passed_over() {
        let dict: HashMap<&str, Variant<'_>> = HashMap::from([
            ("urgency", Variant::U8(2)),
            ("value", Variant::I32(64)),
            ("resident", Variant::Bool(true)),
            ("image-path", Variant::from("mail")),
            ("x-list", Variant::from(vec![1_i32, 2, 3])),
            ("x-bytes", Variant::from(vec![7_u8; 1000])),
            ("x-nested", Variant::from(HashMap::from([("a", Variant::from(vec!["b"]))]))),
        ]);
        let message = message(&(dict, 7_u32));
        let body = message.body();
        let (facts, after): (PropertyMap, u32) = taken(&body);
        assert_eq!((facts.number("urgency"), facts.number("value"), facts.truth("resident")), (Some(2), Some(64), Some(true)));
        assert_eq!((facts.text("image-path"), facts.text("x-list"), facts.number("none")), ("mail", "", None));
        assert_eq!(after, 7, "what follows is where it is");
    }

    #[test]
    fn a_picture_is_shrunk_where_it_lies_and_a_wrong_one_is_passed_over() {
        let sent = |side: i32, bytes: usize| Variant::from((side, side, side * 4, true, 8, 4, vec![200_u8; bytes]));
        let all = HashMap::from([("image-data", sent(4000, 4000 * 4000 * 4)), ("icon_data", sent(4000, 100))]);
        let message = message(&all);
        let body = message.body();
        let mut facts: PropertyMap = taken(&body);
        let ((w, h), pixels) = facts.picture("image-data").expect("a picture");
        let side = limits::SENT_PICTURE_SIDE;
        assert_eq!((w as usize, h as usize, pixels.len()), (side, side, side * side * 4));
        assert!(pixels.iter().all(|byte| *byte == 200));
        assert_eq!(facts.picture("icon_data"), None);
    }

    #[test]
    fn the_picture_of_an_item_is_the_nearest_that_fits() {
        let one = |side: i32, value: u8| (side, side, vec![value; (side * side * 4) as usize]);
        let largest = limits::TRAY_PICTURE_SIDE as i32;
        let only = |side: i32| {
            let all = HashMap::from([("IconPixmap", Variant::from(vec![one(side, 1)]))]);
            let message = message(&all);
            let body = message.body();
            taken::<PropertyMap>(&body).picture("IconPixmap").is_some()
        };
        assert!(only(largest) && !only(largest + 1));
        let all = vec![one(8, 1), one(24, 2), one(64, 3), one(1000, 4), (5, 5, vec![5; 3])];
        let all = HashMap::from([("IconPixmap", Variant::from(all))]);
        let message = message(&all);
        let body = message.body();
        let ((w, h), pixels) = taken::<PropertyMap>(&body).picture("IconPixmap").expect("a picture");
        assert_eq!((w, h, pixels[0]), (24, 24, 2));
    }

    #[test]
    fn long_texts_are_cut_and_many_things_counted() {
        let many: HashMap<String, Variant<'_>> = (0..1000).map(|n| (format!("x{n}"), Variant::from("a".repeat(5000)))).collect();
        let message = message(&(many, vec!["b".repeat(100_000); 1000]));
        let body = message.body();
        let (facts, texts): (PropertyMap, TextArray<4>) = taken(&body);
        assert_eq!(facts.0.len(), limits::BUS_FACTS);
        let long = |fact: &PropertyValue| matches!(fact, PropertyValue::Text(text) if text.len() == limits::BUS_TEXT);
        assert!(facts.0.values().all(long));
        assert_eq!(texts.0.iter().map(String::len).collect::<Vec<_>>(), [limits::BUS_TEXT; 4]);
    }

    #[test]
    fn a_menu_is_taken_in_with_its_inner_ones_and_never_without_end() {
        let leaf = |id: i32| (id, HashMap::from([("label", Variant::from(format!("line {id}")))]), Vec::<Variant<'_>>::new());
        let lines: Vec<Variant<'_>> = (0..500).map(|id| Variant::from(leaf(id))).chain([Variant::from(3_i32)]).collect();
        let menu = (0_i32, HashMap::from([("label", Variant::from("top"))]), lines);
        let message = message(&(9_u32, menu));
        let body = message.body();
        let (_, entry): (u32, Entry) = taken(&body);
        assert_eq!((entry.facts.text("label"), entry.inner.len()), ("top", limits::MENU_LINES));
        assert_eq!((entry.inner[7].id, entry.inner[7].facts.text("label")), (7, "line 7"));
    }

    #[test]
    fn fuzz_messages_of_the_bus() {
        let hints = HashMap::from([
            ("urgency", Variant::U8(2)),
            ("image-data", Variant::from((2_i32, 2_i32, 8_i32, true, 8_i32, 4_i32, vec![7_u8; 16]))),
            ("IconPixmap", Variant::from(vec![(2_i32, 2_i32, vec![7_u8; 16])])),
            ("x", Variant::from(HashMap::from([("a", Variant::from(vec!["b"]))]))),
        ]);
        let leaf = (3_i32, HashMap::from([("label", Variant::from("x"))]), Vec::<Variant<'_>>::new());
        let notice = message(&("app", 0_u32, "", "title", "body", vec!["default", "Open"], &hints, -1_i32));
        let menu = message(&(9_u32, (0_i32, HashMap::from([("a", Variant::from(1))]), vec![Variant::from(leaf)])));
        let corpus: Vec<Vec<u8>> = [&notice, &menu].map(|message| message.body().data().bytes().to_vec()).into();
        type Notify<'m> = (&'m str, u32, &'m str, &'m str, &'m str, TextArray<12>, PropertyMap, i32);
        jovrik_fuzz::tries("messages of the bus", &corpus, 20_000, |bytes| {
            let context = zbus::wire::serialized::Context::new(zbus::wire::LE, 0);
            let data = zbus::wire::serialized::Data::new(bytes, context);
            let _ = data.deserialize::<Notify<'_>>();
            let _ = data.deserialize::<(u32, Entry)>();
            let _ = data.deserialize::<PropertyMap>();
        });
    }
}
