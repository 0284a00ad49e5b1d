"""What lays letters out in a process of its own: limits first, then the letters. One line of JSON, and the PDF behind it."""

import base64
import gc
import sys
from typing import Any

from uvarovite.sandbox.process import limits_of_child

# Told now and then, so that a bar moves.
_TOLD = 10


def main() -> None:
    """Read a line with style and pictures, and a line for each letter."""
    limits_of_child().apply()

    import orjson
    from weasyprint import CSS, HTML
    from weasyprint.text.fonts import FontConfiguration
    from weasyprint.urls import URLFetcher, URLFetcherResponse

    given, out = sys.stdin.buffer, sys.stdout.buffer
    facts = orjson.loads(given.readline())
    pictures = {
        address: (f"image/{kind.replace('jpg', 'jpeg')}", base64.b64decode(content))
        for address, (kind, content) in facts["pictures"].items()
    }

    class OnlyOurs(URLFetcher):  # type: ignore[misc]
        """Fetches nothing: what letters may show was given with them."""

        def fetch(self, url: str, headers: Any = None) -> Any:
            if url not in pictures:
                raise ValueError("not one of the letters' pictures")
            kind, content = pictures[url]
            return URLFetcherResponse(url, body=content, headers={"Content-Type": kind})

    # Whatever is laid out is kept until all of it is written: looking for garbage among it takes a tenth of the time.
    gc.disable()
    fetcher, fonts = OnlyOurs(), FontConfiguration()
    style = [CSS(string=facts["style"], font_config=fonts, url_fetcher=fetcher)]
    letters = []
    for line in given:
        page = HTML(string=orjson.loads(line), url_fetcher=fetcher)
        letters.append(page.render(font_config=fonts, stylesheets=style))
        if len(letters) % _TOLD == 0:
            print(len(letters), file=sys.stderr, flush=True)
    whole = letters[0].copy([page for letter in letters for page in letter.pages])
    pdf = whole.write_pdf()
    out.write(orjson.dumps({"pages": [len(letter.pages) for letter in letters]}) + b"\n")
    out.write(pdf)
    out.flush()


if __name__ == "__main__":
    main()
