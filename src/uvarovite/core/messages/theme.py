"""How letters look: an organisation's colours and type, and the styles that they give."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Theme:
    """Colours as #rrggbb; `dark_` ones are for mail programs in the dark. `font` is a list for font-family.

    `corners` of buttons and `logo_width` in pixels; `logo` is the address of a picture above all letters, "" for none.
    """

    ink: str = "#18211c"
    quiet: str = "#4d5a52"
    accent: str = "#1b7350"
    on_accent: str = "#ffffff"
    paper: str = "#ffffff"
    around: str = "#faf8f2"
    rule: str = "#e3dfd3"
    dark_ink: str = "#e9eee9"
    dark_quiet: str = "#a9b5ac"
    dark_accent: str = "#4fbf8b"
    dark_on_accent: str = "#0b1a13"
    dark_paper: str = "#16211b"
    dark_around: str = "#0e1612"
    dark_rule: str = "#33413a"
    font: str = "Helvetica,Arial,sans-serif"
    corners: int = 4
    logo: str = ""
    logo_words: str = ""
    logo_width: int = 160

    def type(self, size: int, *, colour: str = "", bottom: int = 14, height: float = 1.5) -> str:
        """The style of a paragraph; `size` and `bottom` in pixels."""
        return (
            f"font-family:{self.font};color:{colour or self.ink};font-size:{size}px;line-height:{height};"
            f"margin:0 0 {bottom}px"
        )

    @property
    def button(self) -> str:
        """The style of a button."""
        return (
            f"font-family:{self.font};font-size:16px;background:{self.accent};color:{self.on_accent};"
            "text-decoration:none;padding:10px 18px;"
            f"border-radius:{self.corners}px;display:inline-block"
        )

    @property
    def line(self) -> str:
        """The style of a thin line."""
        return f"border:0;border-top:1px solid {self.rule};margin:18px 0"

    def sheet(self) -> str:
        """The style sheet: what cannot stand in an element, the dark and the narrow."""
        return (
            "@media (max-width:480px){.col{display:block!important;width:100%!important;padding:0!important}"
            ".cell{padding:18px 16px!important}}"
            f"@media (prefers-color-scheme:dark){{body,.around{{background:{self.dark_around}!important}}"
            f".cell{{background:{self.dark_paper}!important}}"
            f".ink{{color:{self.dark_ink}!important}}.quiet{{color:{self.dark_quiet}!important}}"
            f".accent{{color:{self.dark_accent}!important}}.rule{{border-color:{self.dark_rule}!important}}"
            f".button{{background:{self.dark_accent}!important;color:{self.dark_on_accent}!important}}}}"
        )


THEME = Theme()
