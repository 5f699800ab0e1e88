"""The route /{= path =}, asked over HTTP."""

from asking import ServiceCase


class {= route.pascal =}Test(ServiceCase):
    def test_it_answers(self):
        # {= if pages =}
        status, page = self.ask("GET", "/{= path =}")
        self.assertEqual(status, 200)
        self.assertIn("<h1>{= route.sentence.xml =}</h1>", page)
        # {= else =}
        self.assertEqual(self.ask("GET", "/{= path =}"), (200, []))
        # {= end =}
        self.assertEqual(self.ask("DELETE", "/{= path =}")[0], 405)
