"""One change, as a new project and the words that say what it was. Every edit of the desk is made here."""
