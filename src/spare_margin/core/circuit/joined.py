"""Whether pairs of points, each joined to the other, lead from one point to another."""

from collections.abc import Iterable


def joined(pairs: Iterable[tuple[str, str]], start: str, end: str) -> bool:
    """Whether a way along `pairs` leads from `start` to `end`.

    >>> joined([("a", "b"), ("c", "b")], "a", "c"), joined([("a", "b")], "a", "c")
    (True, False)
    """
    # A tenth of a second, which the program's start need not wait for.
    import networkx as nx  # noqa: PLC0415

    graph: nx.Graph[str] = nx.Graph()
    graph.add_nodes_from((start, end))
    graph.add_edges_from(pairs)
    return bool(nx.has_path(graph, start, end))
