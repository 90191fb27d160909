//go:build !race

package survey_test

const everyRig = 1
