use crate::shapes::{ReaderShape, RecommendedShape};
use bradawl_catalogue::options::{
    Advice, Form, Opt, PURPOSES, Purpose, Reader, Topic, common, example, listed_as, of_type, opposite,
    purposes, topic, types,
};
use bradawl_change::draft::{Recommended, recommended};
use bradawl_facts::Version;
use serde::Serialize;
use serde_with::serde_as;

/// `bradawl.option-reference/1`: the catalogue of options, or a part of it.
#[serde_as]
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct ReferenceReport {
    /// Always `bradawl.option-reference/1`.
    pub schema: &'static str,
    /// The kernel; null when none is known.
    pub kernel: Option<String>,
    /// The types, with the number of options of their own.
    pub types: Vec<TypeRow>,
    /// The options, by type.
    pub options: Vec<OptionRow>,
    /// What the word that was searched asks for, and the options that do it; of one
    /// option what it serves.
    pub purposes: Vec<PurposeRow>,
    /// The sets of options that a type which is asked for by itself is given by use.
    #[serde_as(as = "Vec<RecommendedShape>")]
    pub recommended: Vec<Recommended>,
}

/// Something that is wanted of a mount.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct PurposeRow {
    /// In a few words.
    pub title: &'static str,
    /// The options that do it.
    pub options: Vec<PurposeOption>,
}

/// An option that serves a purpose.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct PurposeOption {
    /// As it is written.
    pub option: &'static str,
    /// Types that take it; empty: all.
    pub types: Vec<&'static str>,
    /// What it does for the purpose.
    pub why: &'static str,
    /// What it costs; null: nothing worth knowing.
    pub cost: Option<&'static str>,
}

impl PurposeRow {
    /// What a word asks for, of one type or of all.
    pub fn found(word: &str, fstype: Option<&str>) -> Vec<Self> {
        let fits = |advice: &Advice| fstype.is_none_or(|t| advice.is_for(t));
        Self::with(purposes(word).into_iter(), fits)
    }

    /// What an option of a type serves.
    pub fn served(option: &str, fstype: &str) -> Vec<Self> {
        Self::with(PURPOSES.iter(), |advice| advice.is_for(fstype) && advice.names(option))
    }

    fn with(purposes: impl Iterator<Item = &'static Purpose>, fits: impl Fn(&Advice) -> bool) -> Vec<Self> {
        let option = |advice: &Advice| PurposeOption {
            option: advice.option,
            types: advice.types.to_vec(),
            why: advice.why,
            cost: Some(advice.cost).filter(|cost| !cost.is_empty()),
        };
        let rows = purposes.map(|purpose| PurposeRow {
            title: purpose.title,
            options: purpose.advice.iter().filter(|advice| fits(advice)).map(option).collect(),
        });
        rows.filter(|row| !row.options.is_empty()).collect()
    }
}

/// A type of the catalogue.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct TypeRow {
    /// Its name; `common` stands for what every type takes.
    #[serde(rename = "type")]
    pub fstype: &'static str,
    /// How many options it has of its own.
    pub options: usize,
}

/// An option of a type, for the kernels from one to another.
#[serde_as]
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct OptionRow {
    /// The type; `common` when every type takes it.
    #[serde(rename = "type")]
    pub fstype: &'static str,
    /// Its name.
    pub name: &'static str,
    /// What it does.
    pub meaning: &'static str,
    /// What it is for.
    pub topic: &'static str,
    /// Whether a value has to, can or cannot stand there.
    pub value: Wants,
    /// What the value looks like; null when there is none.
    pub form: Option<String>,
    /// How it may be written, where that is told by its form or its name.
    pub example: Option<String>,
    /// Who acts on it.
    #[serde_as(as = "ReaderShape")]
    pub reader: Reader,
    /// First kernel that takes it; null: older than all that is known.
    pub since: Option<String>,
    /// First kernel that refuses it.
    pub until: Option<String>,
    /// First kernel on which it does nothing; `0.0`: it never does.
    pub idle_since: Option<String>,
    /// Whether the kernel that was asked for takes it; null when none was.
    pub taken: Option<bool>,
    /// What holds without it.
    pub default: Option<&'static str>,
    /// The option that takes it back.
    pub opposite: Option<&'static str>,
    /// Options it brings.
    pub implies: &'static [&'static str],
    /// Options it does not go with.
    pub excludes: &'static [&'static str],
    /// Options beside which the mount is refused.
    pub conflicts: &'static [&'static str],
    /// Options without which the mount is refused.
    pub needs: &'static [&'static str],
    /// First version of the program that reads it which knows it, where that is
    /// not the kernel.
    pub reader_since: Option<String>,
    /// What to think of first.
    pub caution: Option<&'static str>,
    /// Where the row comes from.
    pub source: &'static str,
}

/// Whether an option wants a value.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum Wants {
    /// It takes none.
    None,
    /// It may have one.
    Optional,
    /// It has to have one.
    Required,
}

impl OptionRow {
    /// Tells a row of the catalogue.
    pub fn of(fstype: &'static str, row: &'static Opt, kernel: Option<Version>) -> Self {
        let version = |v: Option<Version>| v.map(|v| v.to_string());
        let said = |text: &'static str| (!text.is_empty()).then_some(text);
        let spec = of_type(fstype);
        OptionRow {
            fstype,
            name: row.name,
            meaning: row.meaning,
            topic: topic(row.name).title(),
            value: wants(row.form),
            form: (wants(row.form) != Wants::None).then(|| row.form.wanted()),
            example: example(fstype, row, kernel),
            reader: row.reader.or(spec.map(|s| s.reader)).unwrap_or(Reader::Kernel),
            since: version(row.since),
            until: version(row.until),
            idle_since: version(row.idle),
            taken: kernel.map(|_| row.taken_by(kernel)),
            default: said(row.default),
            opposite: opposite(rows_of(fstype), row.name),
            implies: row.implies,
            excludes: row.excludes,
            conflicts: row.conflicts,
            needs: row.needs,
            reader_since: version(row.reader_since),
            caution: said(row.caution),
            source: spec.map_or(bradawl_catalogue::options::COMMON_SOURCE, |s| s.source),
        }
    }

    /// Its topic, for grouping.
    pub fn topic(&self) -> Topic {
        topic(self.name)
    }
}

fn wants(form: Form) -> Wants {
    match form {
        Form::Flag => Wants::None,
        Form::FlagOrAny | Form::FlagOrNumber(..) | Form::FlagOrOneOf(_) | Form::FlagOrShaped(..) => {
            Wants::Optional
        }
        _ => Wants::Required,
    }
}

/// The options of a type; of `common` those that every type takes.
pub fn rows_of(fstype: &str) -> &'static [Opt] {
    if fstype == "common" { common() } else { of_type(fstype).map(|s| s.rows).unwrap_or_default() }
}

impl ReferenceReport {
    /// The options that fit, of every type or of one. Of a type that is named,
    /// an option that every type takes is found as well when the type has none
    /// of that name.
    pub fn of(
        fstype: Option<&str>,
        kernel: Option<Version>,
        release: Option<String>,
        fits: impl Fn(&Opt) -> bool,
    ) -> Self {
        let all = types().chain(["common"]);
        let listed = fstype.map(listed_as);
        let named: Vec<&'static str> = all.filter(|t| listed.is_none_or(|f| f == *t)).collect();
        let mut options: Vec<OptionRow> = Vec::new();
        for name in &named {
            let rows = rows_of(name).iter().filter(|row| fits(row));
            options.extend(rows.map(|row| OptionRow::of(name, row, kernel)));
        }
        if options.is_empty() && fstype.is_some() {
            let rows = common().iter().filter(|row| fits(row));
            options.extend(rows.map(|row| OptionRow::of("common", row, kernel)));
        }
        let types = named.iter().map(|t| TypeRow { fstype: t, options: rows_of(t).len() }).collect();
        let purposes = Vec::new();
        let schema = "bradawl.option-reference/1";
        ReferenceReport { schema, kernel: release, types, options, purposes, recommended: Vec::new() }
    }

    /// The same with what the type is given by use.
    #[must_use]
    pub fn by_use(self, fstype: &str) -> Self {
        ReferenceReport { recommended: recommended(fstype), ..self }
    }

    /// The same with what the option of a type serves.
    #[must_use]
    pub fn serving(self, option: &str, fstype: &str) -> Self {
        ReferenceReport { purposes: PurposeRow::served(option, fstype), ..self }
    }

    /// The same with what a word asks for.
    #[must_use]
    pub fn asked(self, word: Option<&str>, fstype: Option<&str>) -> Self {
        let purposes = word.map(|word| PurposeRow::found(word, fstype)).unwrap_or_default();
        ReferenceReport { purposes, ..self }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn finds_options_of_types_and_of_all() {
        let of = |fstype, name: &str| ReferenceReport::of(fstype, None, None, |row| row.name == name).options;
        assert_eq!(of(Some("ext4"), "commit")[0].default, Some("5"));
        assert_eq!(of(Some("ext4"), "noatime")[0].fstype, "common");
        assert!(of(None, "commit").len() > 3);
        assert!(of(Some("ext4"), "sandcastle").is_empty());
        assert_eq!(of(Some("vfat"), "umask")[0].value, Wants::Required);
    }
}
