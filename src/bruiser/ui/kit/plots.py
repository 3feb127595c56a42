"""How a plot that moves is dressed: ground, axes and grid of the theme."""

from __future__ import annotations

import pyqtgraph as pg

from bruiser.ui.theme.theme import theme


def dress_plot(plot: pg.PlotWidget) -> None:
    """Give a plot the theme's colours and fonts."""
    look = theme()
    plot.setBackground(look.colour("surface"))
    for side in ("left", "bottom"):
        axis = plot.getAxis(side)
        axis.setPen(look.colour("muted"))
        axis.setTextPen(look.colour("muted"))
        axis.setStyle(tickFont=look.font("small"))
        axis.label.setFont(look.font("small"))
    plot.showGrid(x=True, y=True, alpha=0.12)
