"""What search engines get: addresses, and which pages the sitemap lists."""
