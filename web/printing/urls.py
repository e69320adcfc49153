from rest_framework.routers import SimpleRouter

from web.printing.views import PrintQueueViewSet

router = SimpleRouter(trailing_slash=False)
router.register("print-queues", PrintQueueViewSet, "print-queue")
urlpatterns = router.urls
