"""What is said in words and laid out for people: shared by the terminal, the notebook and reports."""
