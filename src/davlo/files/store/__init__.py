"""Writing whole files, and `.davlo`, Davlo's own folder in a site."""
