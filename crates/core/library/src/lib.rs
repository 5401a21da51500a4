//! A face.
