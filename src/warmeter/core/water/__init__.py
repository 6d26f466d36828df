"""Water that is kept warm: how long it takes, what standing costs. Not pools' chemistry, not pipes."""
