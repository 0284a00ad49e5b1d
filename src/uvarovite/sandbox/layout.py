"""Letters laid out by WeasyPrint. It is imported by the processes that do it alone, after they took their limits."""

from collections.abc import Mapping
from typing import Any

from weasyprint import CSS, HTML, Document
from weasyprint.text.fonts import FontConfiguration
from weasyprint.urls import URLFetcher, URLFetcherResponse


class Layout:
    """Lays letters out with a style sheet and the pictures that were given with them, by address: (jpg, png or gif, bytes)."""

    def __init__(self, style: str, pictures: Mapping[str, tuple[str, bytes]]) -> None:
        self._fetcher, self._fonts = _OnlyGiven(pictures), FontConfiguration()
        self._style = [CSS(string=style, font_config=self._fonts, url_fetcher=self._fetcher)]

    def document(self, letter: str) -> Document:
        """A whole HTML document, laid out."""
        page = HTML(string=letter, url_fetcher=self._fetcher)
        return page.render(font_config=self._fonts, stylesheets=self._style)


class _OnlyGiven(URLFetcher):  # type: ignore[misc]
    """Fetches nothing: what letters may show was given with them."""

    def __init__(self, pictures: Mapping[str, tuple[str, bytes]]) -> None:
        super().__init__()
        self._pictures = pictures

    def fetch(self, url: str, headers: Any = None) -> Any:
        if url not in self._pictures:
            raise ValueError("not one of the letters' pictures")
        kind, content = self._pictures[url]
        return URLFetcherResponse(url, body=content, headers={"Content-Type": f"image/{kind.replace('jpg', 'jpeg')}"})
