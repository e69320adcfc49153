"""From an order to what was made: weigh, try, plan, write, prove, go back where a proof fails."""

from lighten.making.draw_thumbnails import name_of_part, thumbnail_name, write_thumbnails
from lighten.making.lay_page_apart import LayerPreview, lay_page_apart
from lighten.making.make import copy_ending, make, plan_order, weigh
from lighten.making.make_copy import make_copy
from lighten.making.make_proved_copy import make_proved_copy
from lighten.making.orders import FitOrder, Naming, Order, OrderResult, Piece, numbered_names
from lighten.making.run_trials import run_trials, try_pictures
from lighten.making.split_pages import name_pieces, split_copy, take_pages

__all__ = [
    "FitOrder",
    "LayerPreview",
    "Naming",
    "Order",
    "OrderResult",
    "Piece",
    "copy_ending",
    "lay_page_apart",
    "make",
    "make_copy",
    "make_proved_copy",
    "name_of_part",
    "name_pieces",
    "numbered_names",
    "plan_order",
    "run_trials",
    "split_copy",
    "take_pages",
    "thumbnail_name",
    "try_pictures",
    "weigh",
    "write_thumbnails",
]
