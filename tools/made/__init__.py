"""Made-up data, and ways to make it: captures, figures of every family, drawings, charts, spans and edits at random.

Tests, benchmarks and the tools ask it; nothing of it ships.
"""

from pathlib import Path

DEMO = Path(__file__).resolve().parents[2] / "demo" / "lantern_quay.veergust"
"""The demo project."""
