module orario

go 1.26.0

require (
	github.com/stretchr/testify v1.12.1
	golang.org/x/text v0.44.0
	pgregory.net/rapid v1.3.0
)

require (
	github.com/gowebpki/jcs v1.0.2 // indirect
	go.yaml.in/yaml/v3 v3.0.5 // indirect
)
