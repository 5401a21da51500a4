//! The JSON shapes of what the lower layers make. Their types know no JSON: what is promised of
//! it stands here, and a field or a word of theirs that changes does not change it unseen. That
//! every field is there and no word is left out, the compiler holds (serde's `remote`).

/// Has the schema of a shape stand for its type.
macro_rules! schema_of {
    ($domain:ty, $shape:ty) => {
        #[cfg(feature = "schema")]
        impl serde_with::schemars_1::JsonSchemaAs<$domain> for $shape {
            fn schema_name() -> std::borrow::Cow<'static, str> {
                <$shape as schemars::JsonSchema>::schema_name()
            }

            fn schema_id() -> std::borrow::Cow<'static, str> {
                <$shape as schemars::JsonSchema>::schema_id()
            }

            fn json_schema(generator: &mut schemars::SchemaGenerator) -> schemars::Schema {
                <$shape as schemars::JsonSchema>::json_schema(generator)
            }
        }
    };
}

/// Has a shape stand for its type wherever a document says `serde_as`.
macro_rules! shapes {
    ($($domain:ty => $shape:ty),* $(,)?) => {$(
        impl serde_with::SerializeAs<$domain> for $shape {
            fn serialize_as<S: serde::Serializer>(value: &$domain, serializer: S) -> Result<S::Ok, S::Error> {
                <$shape>::serialize(value, serializer)
            }
        }
        schema_of!($domain, $shape);
    )*};
}

use serde::Serialize;
use serde_with::SerializeAs;
use serde_with::ser::SerializeAsWrap;

/// A value of the lower layers that is a document by itself, in its shape.
pub fn in_shape<T, S: SerializeAs<T> + 'static>(value: &T) -> impl Serialize + '_ {
    SerializeAsWrap::<T, S>::new(value)
}

mod change;
mod compare;
mod devices;
mod draft;
mod finding;
mod forecast;
mod hindsight;
mod swap;
mod units;

pub use change::*;
pub use compare::*;
pub use devices::*;
pub use draft::*;
pub use finding::*;
pub use forecast::*;
pub use hindsight::*;
pub use swap::*;
pub use units::*;

#[cfg(test)]
#[allow(clippy::unwrap_used)]
mod tests;
