"""The CSS of looks: which properties a look may set, what each takes, and what they come to when they are drawn."""
