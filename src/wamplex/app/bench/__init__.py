"""The panes that show results, shared by the Trial and Finish steps."""
