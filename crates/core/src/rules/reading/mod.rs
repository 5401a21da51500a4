pub(super) mod byte_order_mark;
pub(super) mod field_count;
pub(super) mod number_field;
pub(super) mod smart_punctuation;
