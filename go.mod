module idlehiss

go 1.26.0

require (
	github.com/goccy/go-yaml v1.19.2
	github.com/santhosh-tekuri/jsonschema/v6 v6.0.3
	gonum.org/v1/gonum v0.17.0
)

require golang.org/x/text v0.43.0 // indirect
