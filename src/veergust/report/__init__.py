"""A report of actions to print, to send, or to read numbers from: one page of HTML, a table of values, plain text."""
