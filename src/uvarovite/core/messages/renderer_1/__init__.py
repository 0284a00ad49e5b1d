"""What made the messages of runs that were released with renderer 1. It is never changed: what it made has been sent."""

from uvarovite.core.messages.renderer_1.make import first_maker

__all__ = ["first_maker"]
