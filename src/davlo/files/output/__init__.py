"""What other programs read: sitemaps and SARIF."""
