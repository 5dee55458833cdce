"""What is sent to people: reports of actions as a page, a table of values or plain text, and frames as pictures."""
