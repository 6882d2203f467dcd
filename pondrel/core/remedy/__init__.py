"""What follows once a part is named: the ways to mend it with what each is likely to cost, and what is seen to before one is taken."""
