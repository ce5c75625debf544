"""What goes where: split tunnels, and the routes that they come down to."""

from pontifex.core.routing.split import RouteList, Split, route_list

__all__ = ["RouteList", "Split", "route_list"]
