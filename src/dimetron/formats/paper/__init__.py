"""Views at true scale on paper, tiled over pages; as PDF and as SVG."""
