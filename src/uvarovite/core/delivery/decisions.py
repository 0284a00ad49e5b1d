"""What becomes of those who did not get a message, or may not have, once their run is over."""

from enum import StrEnum

from uvarovite.core.delivery.states import DeliveryState


class Decision(StrEnum):
    """LEFT: nothing more is sent to them. AGAIN: they are in a later run, over exactly those."""

    LEFT = "left"
    AGAIN = "again"


# Whom a later run can be for. Whoever was accepted has got it.
MAY_GET_AGAIN = (DeliveryState.UNKNOWN, DeliveryState.REFUSED, DeliveryState.STOPPED, DeliveryState.HELD)
