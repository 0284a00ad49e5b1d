"""The till of the museum's shop: an SQLite file of its own, some of whose customers are contacts of the museum already."""

import csv
import io
import random
import sqlite3
from contextlib import closing
from datetime import timedelta
from pathlib import Path

from uvarovite.demo.contacts import SEED, STORY_DAY, make_files
from uvarovite.demo.names import FIRST_NAMES, LAST_NAMES, SPECIMENS, TOWNS

SHOP_FILE = "museum shop.sqlite"
SHOP_VIEW = "shop_customers"
CUSTOMERS = 180

_SCHEMA = f"""
CREATE TABLE customer (
    id INTEGER PRIMARY KEY, email TEXT NOT NULL, first_name TEXT, last_name TEXT, town TEXT, newsletter INTEGER NOT NULL);
CREATE TABLE purchase (
    id INTEGER PRIMARY KEY, customer_id INTEGER NOT NULL REFERENCES customer, on_day TEXT NOT NULL, article TEXT NOT NULL,
    cents INTEGER NOT NULL);
CREATE VIEW {SHOP_VIEW} AS
    SELECT customer.email AS "E-mail", first_name AS "First name", last_name AS "Last name", town AS "Town",
        max(on_day) AS "Last purchase", printf('%.2f EUR', sum(cents) / 100.0) AS "Spent in the shop"
    FROM customer JOIN purchase ON purchase.customer_id = customer.id WHERE newsletter = 1 GROUP BY customer.id;
"""


def make_shop(directory: Path, customers: int = CUSTOMERS) -> Path:
    """The shop's database, the same every time; every second customer who wants news is a contact. An old one goes."""
    rng = random.Random(SEED + 1)
    directory.mkdir(parents=True, exist_ok=True)
    path = directory / SHOP_FILE
    path.unlink(missing_ok=True)
    known = [row for row in csv.DictReader(io.StringIO(make_files().contacts)) if row["E-mail address"].count("@") == 1]
    with closing(sqlite3.connect(path)) as shop:
        shop.executescript(_SCHEMA)
        for number in range(1, customers + 1):
            if number % 2:
                row = known[100 + 3 * number]
                address = row["E-mail address"].upper() if number % 7 == 0 else row["E-mail address"]
                # Some have moved since they wrote to the museum.
                town = rng.choice(TOWNS) if number % 9 == 0 else row["Town"]
                person = (address, row["First name"], row["Last name"], town)
            else:
                first, last = rng.choice(FIRST_NAMES["en"]), rng.choice(LAST_NAMES["en"])
                person = (f"till.{number}@tinmail.example", first, last, rng.choice(TOWNS))
            newsletter = int(rng.random() < 0.8)
            shop.execute("INSERT INTO customer VALUES (?, ?, ?, ?, ?, ?)", (number, *person, newsletter))
            for _ in range(rng.randint(1, 4)):
                day = STORY_DAY - timedelta(days=rng.randint(1, 400))
                article = f"{rng.choice(SPECIMENS)}, boxed"
                shop.execute(
                    "INSERT INTO purchase (customer_id, on_day, article, cents) VALUES (?, ?, ?, ?)",
                    (number, day.isoformat(), article, rng.randrange(450, 9_900, 50)),
                )
        shop.commit()
    return path
