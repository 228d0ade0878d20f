module orario

go 1.26.0

require (
	github.com/gabriel-vasile/mimetype v1.4.16
	github.com/gowebpki/jcs v1.0.2
	github.com/pdfcpu/pdfcpu v0.15.0
	github.com/stretchr/testify v1.12.1
	golang.org/x/image v0.47.0
	golang.org/x/text v0.44.0
	pgregory.net/rapid v1.3.0
)

require (
	github.com/clipperhouse/uax29/v2 v2.7.0 // indirect
	github.com/hhrutter/tiff v1.0.6 // indirect
	github.com/mattn/go-runewidth v0.0.27 // indirect
	go.yaml.in/yaml/v3 v3.0.5 // indirect
	golang.org/x/crypto v0.54.0 // indirect
)
