"""From limits and a solved craft to allowances, spare and headroom."""
