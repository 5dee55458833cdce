"""What every bench is made of: paper, stage and pages, time that runs, and somebody who is driven."""
