package web

import "github.com/gin-gonic/gin"

// Routes lists every address that the program answers, for a test to walk.
func Routes() (gin.RoutesInfo, error) {
	r, err := (&Server{}).routes()
	if err != nil {
		return nil, err
	}
	return r.(*gin.Engine).Routes(), nil
}
