"""Fields, records and criteria trees for property tests."""

from datetime import UTC, date, datetime
from decimal import Decimal
from zoneinfo import ZoneInfo

from hypothesis import strategies as st

from uvarovite.core.contacts import STANDARD_FIELDS, Field, FieldType, Value
from uvarovite.core.expressions import (
    OPERATORS,
    All,
    AnyOf,
    ChosenBySql,
    Clock,
    Condition,
    DateLiteral,
    History,
    Imported,
    InAudience,
    Items,
    Literal,
    MoneyLiteral,
    Named,
    NamedAudience,
    Names,
    Node,
    Not,
    NowLiteral,
    NumberLiteral,
    PeriodLiteral,
    Subscribed,
    Tagged,
    TextLiteral,
    TodayLiteral,
)
from uvarovite.core.values import Money

CHOICES = ("Friend", "Fellow", "Patron")
FIELDS: dict[str, Field] = {
    field.key: field
    for field in (
        *STANDARD_FIELDS,
        Field(key="membership", label="Membership", type=FieldType.CHOICE, choices=CHOICES),
        Field(key="pledge", label="Pledge", type=FieldType.MONEY, currency="EUR"),
        Field(key="renews_on", label="Renews on", type=FieldType.DATE),
        Field(key="town", label="Town", type=FieldType.TEXT),
        Field(key="visits_last_year", label="Visits last year", type=FieldType.NUMBER),
        Field(key="volunteer", label="Volunteer", type=FieldType.YES_NO),
        Field(key="last_seen", label="Last seen", type=FieldType.DATE_TIME),
        Field(
            key="adopted_specimens",
            label="Adopted specimens",
            type=FieldType.LIST,
            parts=(
                Field(key="name", label="Name", type=FieldType.TEXT),
                Field(key="grade", label="Grade", type=FieldType.CHOICE, choices=CHOICES),
                Field(key="seen", label="Seen", type=FieldType.DATE_TIME),
                Field(key="weight", label="Weight", type=FieldType.NUMBER),
                Field(key="since", label="Since", type=FieldType.DATE),
                Field(key="price", label="Price", type=FieldType.MONEY, currency="EUR"),
                Field(key="kept", label="Kept", type=FieldType.YES_NO),
            ),
        ),
    )
}
# Two days after the clocks went forward where the museum stands.
CLOCK = Clock(now=datetime(2026, 3, 31, 12, tzinfo=ZoneInfo("Europe/London")), today=date(2026, 3, 31))

# Letters whose cases and compositions differ between systems, quotes, and what SQL and patterns would treat specially.
_LETTERS = "aAbBßẞſσςΣİIıiée\u0301ÅA\u030aﬁж中日ا %_\\'\"@{};-"
texts = st.text(alphabet=_LETTERS, max_size=6)
numbers = st.decimals(min_value=-1000, max_value=1000, places=2)
days = st.dates(min_value=date(2025, 11, 1), max_value=date(2026, 9, 1))


instants = st.datetimes(datetime(2026, 3, 27), datetime(2026, 4, 2)).map(  # noqa: DTZ001 - given a zone below
    lambda moment: moment.replace(microsecond=0, tzinfo=UTC)
)


def _items(field: Field) -> st.SearchStrategy[Value]:
    """Records of a list: no blank part is kept, and no record without any."""
    parts = st.fixed_dictionaries({part.key: _value(part) for part in field.parts})
    kept = parts.map(lambda item: {key: value for key, value in item.items() if value is not None}).filter(bool)
    return st.lists(kept, max_size=3).map(lambda items: tuple(items) or None)


def _value(field: Field) -> st.SearchStrategy[Value]:
    blank: st.SearchStrategy[Value] = st.none()
    match field.type:
        case FieldType.TEXT:
            return blank | texts.map(lambda text: text.strip() or None)
        case FieldType.CHOICE:
            return blank | st.sampled_from(CHOICES)
        case FieldType.NUMBER:
            return blank | numbers
        case FieldType.MONEY:
            # A currency that the field does not have now, left from before it was changed.
            return blank | st.builds(
                lambda amount, currency: Money(amount=amount, currency=currency),
                numbers,
                st.sampled_from(["EUR", "EUR", "USD"]),
            )
        case FieldType.DATE:
            return blank | days
        case FieldType.DATE_TIME:
            return blank | instants
        case FieldType.LIST:
            return blank | _items(field)
        case FieldType.YES_NO:
            return blank | st.booleans()


_OWN = {key: field for key, field in FIELDS.items() if key not in ("address", "contact_no", "language")}
records: st.SearchStrategy[dict[str, Value]] = st.fixed_dictionaries(
    {key: _value(field) for key, field in _OWN.items()}
)

_periods = st.builds(
    lambda count, unit: PeriodLiteral(count=count, unit=unit),
    st.integers(0, 14),
    st.sampled_from(["days", "weeks", "months"]),
)


_today = st.builds(
    lambda count, unit: TodayLiteral(count=count, unit=unit if count else "days"),
    st.integers(-5, 5),
    st.sampled_from(["days", "weeks", "months"]),
)


def _literal(field: Field) -> st.SearchStrategy[Literal]:
    match field.type:
        case FieldType.TEXT:
            # Compared with nothing is no comparison.
            return texts.filter(str.strip).map(lambda text: TextLiteral(text=text))
        case FieldType.CHOICE:
            return st.sampled_from(CHOICES).map(lambda text: TextLiteral(text=text))
        case FieldType.NUMBER:
            return numbers.map(lambda number: NumberLiteral(number=number))
        case FieldType.MONEY:
            return numbers.map(lambda amount: MoneyLiteral(amount=amount, currency="EUR"))
        case _:
            return days.map(lambda day: DateLiteral(day=day)) | _today


_COUNT = Field(key="count", label="Count", type=FieldType.NUMBER)


@st.composite
def conditions(draw: st.DrawFn, fields: tuple[Field, ...] = tuple(_OWN.values())) -> Node:
    """A condition that passes the check, of any operator; on a list also on its records, or on how many there are."""
    field = draw(st.sampled_from(fields))
    if field.type is FieldType.LIST and draw(st.booleans()):
        quantifier = draw(st.sampled_from(["any", "every"]))
        return Items(field=field.key, quantifier=quantifier, child=draw(trees_of(field.parts, 3)))  # type: ignore[arg-type]
    counted = field.type is FieldType.LIST and draw(st.booleans())
    asked = _COUNT if counted else field
    operator = draw(
        st.sampled_from(
            [row for row in OPERATORS.values() if asked.type in row.types and not (counted and row.sees_blank)]
        )
    )
    literal = st.integers(-1, 4).map(lambda n: NumberLiteral(number=Decimal(n))) if counted else _literal(asked)
    if field.type is FieldType.DATE_TIME and operator.key in ("before", "after"):
        literal = literal | st.just(NowLiteral())
    values: tuple[Literal, ...] = {
        "none": lambda: (),
        "one": lambda: (draw(literal),),
        "two": lambda: (draw(literal), draw(literal)),
        "list": lambda: tuple(draw(st.lists(literal, min_size=1, max_size=3))),
        "period": lambda: (draw(_periods),),
    }[operator.operands]()
    return Condition(field=field.key, operator=operator.key, values=values, counted=counted)


def _groups(children: st.SearchStrategy[Node]) -> st.SearchStrategy[Node]:
    several = st.lists(children, min_size=2, max_size=3).map(tuple)
    return (
        several.map(lambda nodes: All(children=nodes))
        | several.map(lambda nodes: AnyOf(children=nodes))
        | children.map(lambda node: Not(child=node))
    )


def trees_of(fields: tuple[Field, ...], leaves: int) -> st.SearchStrategy[Node]:
    """Trees over some fields, their lists included."""
    return st.recursive(conditions(fields), _groups, max_leaves=leaves)


trees: st.SearchStrategy[Node] = trees_of(tuple(_OWN.values()), 5)

# What criteria can name, one of each kind, under names that need quoting.
_WALKERS = 'Walkers "near" the valley'
NAMES = Names(
    topics={"field walks": Named(id=1, name="Field walks")},
    tags={"lamp owner": Named(id=1, name="Lamp owner")},
    campaigns={"autumn": Named(id=1, name="Autumn")},
    files={"people.csv": "people.csv"},
    audiences={_WALKERS.lower(): NamedAudience(id=1, name=_WALKERS, node=All(children=()))},
    choose=lambda sql: None,
)
_within = st.none() | _periods
_events = st.sampled_from(["received", "opened", "clicked", "replied", "bounced"])
abouts: st.SearchStrategy[Node] = st.one_of(
    st.builds(
        lambda since: Subscribed(topic="Field walks", since=since),
        st.none() | _today | days.map(lambda day: DateLiteral(day=day)),
    ),
    st.builds(
        lambda event, campaign, within, never: History(event=event, campaign=campaign, within=within, never=never),
        _events,
        st.sampled_from([None, "Autumn", "AUTUMN"]),
        _within,
        st.booleans(),
    ),
    st.just(Imported(file="people.csv")),
    st.just(InAudience(audience=_WALKERS)),
    st.sampled_from(["lamp owner", "LAMP owner"]).map(lambda tag: Tagged(tag=tag)),
    st.text(min_size=1)
    .filter(str.strip)
    .map(lambda rest: ChosenBySql(sql=f'SELECT contact_id\nFROM "contacts" {rest}')),
)
# Trees of everything that criteria can ask.
whole_trees: st.SearchStrategy[Node] = st.recursive(conditions() | abouts, _groups, max_leaves=5)
