"""Which points still hang together when something is open."""

from collections.abc import Collection

import networkx as nx

from spare_margin.core.model.pieces import Craft, Scenario


def cut_apart(
    craft: Craft, scenario: Scenario, opened: Collection[str], red: str, black: str
) -> bool:
    """Whether two points have no way between them, through pieces, loads that are on and sources.

    `opened` are ids of pieces and loads that are open beside those that are open on purpose.
    """
    graph: nx.Graph[str] = nx.Graph()
    graph.add_nodes_from((red, black))
    for piece in craft.pieces:
        if not scenario.is_open(piece) and piece.id not in opened:
            graph.add_edge(piece.start, piece.end)
    for load in craft.loads:
        if load.id in scenario.on and load.id not in opened:
            graph.add_edge(load.start, load.end)
    for source in craft.sources:
        graph.add_edge(source.live, source.back)
    return not nx.has_path(graph, red, black)
