"""Whether what a joint brings can be bought, made, put together and reached: findings for any kind, from its parts
alone."""
