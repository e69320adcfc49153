from rest_framework.routers import SimpleRouter

from web.satchels.copies.copy_views import CopyViewSet, HandOverViewSet
from web.satchels.views import (
    DocumentViewSet,
    ReturnedCopyViewSet,
    RunViewSet,
    SatchelViewSet,
)

router = SimpleRouter(trailing_slash=False)
router.register("satchels", SatchelViewSet, "satchel")
router.register("documents", DocumentViewSet, "document")
router.register("returned", ReturnedCopyViewSet, "returned")
router.register("runs", RunViewSet, "run")
router.register("copies", CopyViewSet, "copy")
router.register("hand-overs", HandOverViewSet, "hand-over")
urlpatterns = router.urls
