package job

// Defines returns the name of a kind's type in the schema.
func Defines(k Kind) string { return k.(interface{ define() string }).define() }
