"""What features are called on a sheet of proofs: a row of words for each kind."""

from collections.abc import Mapping

from babel import Locale

from uvarovite.core.contacts import FieldMap, FieldType
from uvarovite.core.messages.features import Feature, FeatureKind
from uvarovite.core.values.sentences import sentence

_K = FeatureKind
FEATURE_WORDS: Mapping[FeatureKind, str] = {
    _K.BRANCH: "only for {which}",
    _K.FALLBACK: "no {about}: the fallback",
    _K.BLANK: "no {about}: nothing stands there",
    _K.LIST_EMPTY: "no {about}",
    _K.LIST_ONE: "one of their {about}",
    _K.LIST_MANY: "several {about}",
    _K.LONGEST: "longest {about}",
    _K.SHORTEST: "shortest {about}",
    _K.LARGEST: "largest {about}",
    _K.SMALLEST: "smallest {about}",
    _K.NEGATIVE: "{about} below zero",
    _K.ZERO: "{about} zero",
    _K.PAST: "{about} is past",
    _K.SCRIPT: "a name in {which}",
    _K.LOCALE: "reads {which}",
    _K.LONGEST_SUBJECT: "longest subject",
}
# The arm without a condition.
ELSE = "for everybody but {about}"


def feature_words(feature: Feature, fields: FieldMap) -> str:
    """What a feature is called; with the language of the words it is in, where there are several."""
    said = _words(feature, fields)
    return f"{said}, in {_language(feature.letter)}" if feature.letter else said


def _words(feature: Feature, fields: FieldMap) -> str:
    if feature.kind is FeatureKind.BRANCH and not feature.which:
        return sentence(ELSE, {"about": feature.about})
    which = _language(feature.which) if feature.kind is FeatureKind.LOCALE else feature.which
    return sentence(FEATURE_WORDS[feature.kind], {"about": about_words(feature.about, fields), "which": which})


def _language(locale: str) -> str:
    return Locale.parse(locale).get_display_name("en") or locale


def about_words(name: str, fields: FieldMap) -> str:
    """What a field, or a part of a list's records, is called within a sentence; what is neither, as it is written."""
    if name in fields:
        return _small(fields[name].label)
    part = name.rpartition(".")[2] if "." in name else ""
    for field in fields.values():
        for one in field.parts if field.type is FieldType.LIST else ():
            if one.key == part:
                return _small(one.label)
    return name


def _small(label: str) -> str:
    """A label within a sentence; one that begins with two capitals, such as VAT, stays as it is."""
    return label if label[1:2].isupper() else label[:1].lower() + label[1:]
