"""What people write from habit, and what it is called here: phrases for operators, other names of fields, filler words.

Only what has one meaning stands in these tables. A phrase is written in lower case with single blanks.
"""

# Phrases by the key of an operator, for every type of field.
BLANK = (
    "is blank", "is empty", "empty", "blank", "is null", "= null", "is missing", "missing", "not set", "is not set",
    "isn't set", "is unset", "has no value", "does not exist", "is unknown", "is nothing", "= \"\"", "is \"\"",
)  # fmt: skip
NOT_BLANK = (
    "is not blank", "isn't blank", "not blank", "is not empty", "isn't empty", "not empty", "is set", "set", "exists",
    "is not null", "!= null", "<> null", "has a value", "is filled", "is filled in", "is known", "is there",
    "is not missing", "!= \"\"", "is not \"\"",
)  # fmt: skip
EQUALITY = {
    "is": ("is", "=", "==", "equals", "equal to", "is equal to", "is exactly", ":"),
    "is_not": ("is not", "isn't", "!=", "<>", "≠", "not", "not equal to", "is not equal to", "does not equal",
               "is different from", "differs from"),
    "in": ("in", "is in", "one of", "is one of", "any of", "is any of", "either", "is either"),
    "not_in": ("not in", "is not in", "isn't in", "none of", "is none of", "not one of", "is not one of", "neither",
               "is neither"),
}  # fmt: skip
TEXTS = {
    "contains": ("contains", "contain", "containing", "includes", "has", "like", "is like"),
    "not contains": ("does not contain", "doesn't contain", "not contains", "not contain", "does not include",
                     "not like", "is not like", "does not have", "doesn't have"),
    "starts_with": ("starts with", "start with", "startswith", "starts", "begins with", "begin with", "beginning with",
                    "starting with"),
    "ends_with": ("ends with", "end with", "endswith", "ending with", "ends in", "ends"),
}  # fmt: skip
AMOUNTS = {
    "more": (">", "more than", "is more than", "greater than", "is greater than", "over", "is over", "above", "is above",
             "larger than", "is larger than", "higher than", "bigger than", "exceeds"),
    "less": ("<", "less than", "is less than", "fewer than", "is fewer than", "under", "is under", "below", "is below",
             "smaller than", "is smaller than", "lower than"),
    "at_least": (">=", "=>", "≥", "at least", "is at least", "minimum", "from", "no less than"),
    "at_most": ("<=", "=<", "≤", "at most", "is at most", "maximum", "up to", "no more than"),
    "between": ("between", "is between"),
}  # fmt: skip
# A day and after it is the same as after the day before: that is how the last two are said here.
DATES = {
    "before": ("before", "is before", "<", "earlier than", "is earlier than", "older than", "is older than"),
    "after": ("after", "is after", ">", "later than", "is later than"),
    "on": ("on", "is on"),
    "between": ("between", "is between"),
    "from": (">=", "=>", "≥", "on or after", "is on or after", "from", "since", "at least"),
    "until": ("<=", "=<", "≤", "on or before", "is on or before", "until", "by", "at most", "up to"),
}  # fmt: skip
WITHIN_LAST = (
    "within last", "within the last", "in the last", "in last", "during the last", "in the past", "within the past",
    "is within the last", "is in the last", "last", "past",
)  # fmt: skip
WITHIN_NEXT = (
    "within next", "within the next", "in the next", "in next", "during the next", "is within the next",
    "is in the next", "next",
)  # fmt: skip
YES, NO = ("yes", "true", "on", "1", "checked", "ticked"), ("no", "false", "off", "0", "unchecked", "unticked")

# What else a field is called where there is one of these names.
OTHER_NAMES: dict[str, tuple[str, ...]] = {
    "email": ("address",), "e-mail": ("address",), "mail": ("address",), "email address": ("address",),
    "e-mail address": ("address",), "mail address": ("address",),
    "forename": ("first_name",), "given name": ("first_name",), "firstname": ("first_name",),
    "surname": ("last_name",), "family name": ("last_name",), "lastname": ("last_name",),
    "city": ("town", "city"), "town": ("city", "town"), "place": ("town", "city"), "village": ("town", "city"),
    "zip": ("postcode", "postal_code", "zip"), "zip code": ("postcode", "postal_code", "zip"),
    "post code": ("postcode", "postal_code", "zip"), "postal code": ("postcode", "postal_code", "zip"),
    "number": ("contact_no",), "member number": ("contact_no",), "customer number": ("contact_no",), "id": ("contact_no",),
    "lang": ("language",),
}  # fmt: skip
# Words that may stand before the first condition and say nothing.
FILLERS = frozenset(
    {"where", "who", "whose", "with", "if", "that", "people", "contacts", "select", "find", "show", "having"}
)
EVERYONE = frozenset({"everyone", "everybody", "all", "anyone", "anybody", "*"})
AND, OR = frozenset({"and", "&&", "&", "but", "+"}), frozenset({"or", "||", "|"})
EXCEPT = ("except for", "except", "but not", "and not", "without", "excluding", "other than")
CURRENCY_WORDS = {
    "euro": "EUR", "euros": "EUR", "eur": "EUR", "pound": "GBP", "pounds": "GBP", "gbp": "GBP", "dollar": "USD",
    "dollars": "USD", "usd": "USD", "franc": "CHF", "francs": "CHF", "chf": "CHF", "zloty": "PLN", "zlotys": "PLN",
    "pln": "PLN", "zł": "PLN",
}  # fmt: skip
NUMBER_WORDS = {
    "a": 1,
    "an": 1,
    "one": 1,
    "two": 2,
    "three": 3,
    "four": 4,
    "five": 5,
    "six": 6,
    "ten": 10,
    "twelve": 12,
}
NEVER = ("never", "not", "did not", "didn't", "has not", "hasn't", "have not", "haven't", "did never", "has never")
