"""The report: one HTML file that holds a site's pages, findings and declarations, for colleagues to look at."""
