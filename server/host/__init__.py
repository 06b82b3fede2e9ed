"""The process that renders one project: panes, their pictures, what is drawn over them."""
