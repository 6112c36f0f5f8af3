//! JSON in which objects are objects.

use serde::de::value::{MapDeserializer, SeqDeserializer};
use serde::de::{Deserializer, Error, IntoDeserializer, Unexpected, Visitor};
use serde::forward_to_deserialize_any;
use serde_json::Value;

/// Reads as the value does, but takes no list for an object.
pub(crate) struct Strict(pub Value);

impl<'de> IntoDeserializer<'de, serde_json::Error> for Strict {
    type Deserializer = Self;

    fn into_deserializer(self) -> Self {
        self
    }
}

impl<'de> Deserializer<'de> for Strict {
    type Error = serde_json::Error;

    fn deserialize_any<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Self::Error> {
        match self.0 {
            Value::Array(items) => {
                let mut items = SeqDeserializer::new(items.into_iter().map(Strict));
                let value = visitor.visit_seq(&mut items)?;
                items.end()?;
                Ok(value)
            }
            Value::Object(fields) => {
                let mut fields = MapDeserializer::new(fields.into_iter().map(|(name, value)| (name, Strict(value))));
                let value = visitor.visit_map(&mut fields)?;
                fields.end()?;
                Ok(value)
            }
            plain => plain.deserialize_any(visitor),
        }
    }

    fn deserialize_option<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Self::Error> {
        match self.0 {
            Value::Null => visitor.visit_none(),
            _ => visitor.visit_some(self),
        }
    }

    fn deserialize_newtype_struct<V: Visitor<'de>>(self, _: &'static str, visitor: V) -> Result<V::Value, Self::Error> {
        visitor.visit_newtype_struct(self)
    }

    fn deserialize_struct<V: Visitor<'de>>(
        self,
        _: &'static str,
        _: &'static [&'static str],
        visitor: V,
    ) -> Result<V::Value, Self::Error> {
        match &self.0 {
            Value::Array(_) => Err(Error::invalid_type(Unexpected::Seq, &visitor)),
            _ => self.deserialize_any(visitor),
        }
    }

    fn deserialize_enum<V: Visitor<'de>>(
        self,
        name: &'static str,
        variants: &'static [&'static str],
        visitor: V,
    ) -> Result<V::Value, Self::Error> {
        self.0.deserialize_enum(name, variants, visitor)
    }

    forward_to_deserialize_any! {
        bool i8 i16 i32 i64 i128 u8 u16 u32 u64 u128 f32 f64 char str string bytes byte_buf unit unit_struct seq tuple
        tuple_struct map identifier ignored_any
    }
}

#[cfg(test)]
mod tests {
    use rocket::serde::Deserialize;

    use super::*;

    #[derive(Debug, PartialEq, Deserialize)]
    #[serde(crate = "rocket::serde")]
    struct Outer {
        pair: (u8, f64),
        inner: Option<Inner>,
        many: Vec<Inner>,
    }

    #[derive(Debug, PartialEq, Deserialize)]
    #[serde(crate = "rocket::serde")]
    struct Inner {
        #[serde(default)]
        a: Option<u8>,
        #[serde(default)]
        b: Option<String>,
    }

    fn read(json: &str) -> Result<Outer, String> {
        let value: Value = serde_json::from_str(json).unwrap();
        serde_path_to_error::deserialize(Strict(value)).map_err(|error| error.to_string())
    }

    #[test]
    fn a_list_is_no_object_however_deep() {
        let (inner, lone) = (Inner { a: Some(1), b: None }, Inner { a: None, b: Some("x".to_owned()) });
        let read_well = read(r#"{"pair":[1,2.5],"inner":{"a":1},"many":[{"b":"x"}]}"#);
        assert_eq!(read_well, Ok(Outer { pair: (1, 2.5), inner: Some(inner), many: vec![lone] }));
        assert_eq!(read(r#"{"pair":[1,2.5],"inner":null,"many":[]}"#).unwrap().inner, None);
        for (json, place) in [
            (r#"{"pair":[1,2],"inner":[null,null],"many":[]}"#, "inner"),
            (r#"{"pair":[1,2],"inner":null,"many":[[1,"x"]]}"#, "many[0]"),
            (r#"[[1,2],null,[]]"#, "invalid type: sequence"),
        ] {
            let refused = read(json).unwrap_err();
            assert!(refused.contains(place), "{json}: {refused}");
        }
    }
}
