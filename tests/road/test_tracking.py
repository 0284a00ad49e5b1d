"""Opens in a flood at a real server that is stopped in the middle: what it answered is written, or said to be lost."""

import signal
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import httpx

from tests.support.museum import KEYRING, NOW, Museum
from tests.support.processes import installation, until
from tests.support.sending import send_all
from uvarovite.core.responses import Purpose, Token, sign_token
from uvarovite.store.database import run_sql

# Within a minute a token counts so often, and no more: five people have thirty fetches each.
FETCHES = 150


def test_a_clean_stop_writes_everything_that_was_answered(museum: Museum, tmp_path: Path) -> None:
    run_id = museum.release(NOW)
    send_all(museum, run_id)
    with installation(museum.database.url, tmp_path) as world:
        world.start_web()
        web = world.running[-1]
        with museum.database.transaction() as tx:
            deliveries = [row.id for row in run_sql(tx, "SELECT id FROM delivery ORDER BY id")]

        def fetch(number: int) -> bool:
            token = Token(purpose=Purpose.OPEN, delivery_id=deliveries[number % len(deliveries)])
            try:
                answer = client.get(f"/o/{sign_token(token, KEYRING)}.gif")
            except httpx.TransportError:
                return False
            return answer.status_code == 200

        with httpx.Client(base_url=world.web_url, timeout=20) as client, ThreadPoolExecutor(8) as many:
            asked = [many.submit(fetch, number) for number in range(FETCHES)]
            until(lambda: sum(one.done() for one in asked) > FETCHES // 4, "a quarter of the answers")
            web.send_signal(signal.SIGTERM)
            answered = sum(one.result() for one in asked)
        web.wait()
    with museum.database.transaction() as tx:
        kept = run_sql(tx, "SELECT count(*) AS n FROM response_event")[0].n
    # A token counts so often within a minute, and no more.
    assert answered > FETCHES // 4
    assert kept >= min(answered, 30 * len(deliveries))
