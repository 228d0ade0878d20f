package imaging_test

import (
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"math"

	"orario/core/imaging"
)

func ExampleFindPage() {
	photo := image.NewRGBA(image.Rect(0, 0, 400, 560)) // a dark desk
	draw.Draw(photo, photo.Rect, image.NewUniform(color.Gray{50}), image.Point{}, draw.Src)
	page := image.Rect(60, 80, 340, 476) // of paper, 280 by 396 pixels
	draw.Draw(photo, page, image.NewUniform(color.Gray{235}), image.Point{}, draw.Src)

	corners, found := imaging.FindPage(photo)
	upper, lower := corners[0], corners[2]
	fmt.Println(found, math.Abs(upper.X-60) < 2, math.Abs(lower.Y-476) < 2)
	fmt.Printf("%.2f\n", imaging.Proportion(corners, 400, 560)) // width by height; A4 has 0.71
	// Output:
	// true true true
	// 0.70
}

func ExampleUpright() {
	p := image.NewRGBA(image.Rect(0, 0, 40, 30))
	fmt.Println(imaging.Upright(p, 6).Rect.Size()) // EXIF: it was held by its side
	fmt.Println(imaging.Turn(p, 180).Rect.Size())
	// Output:
	// (30,40)
	// (40,30)
}
