"""From a project to a yarn, on the page."""

import re


def test_a_pattern_is_answered_with_yarns_metres_and_whether_the_lot_is_enough(demo_http):
    page = demo_http.get(
        "/project?project=jersey&large=large&gauge=22+in+4+in&needle=US+7&fibre=lot:two-dragon-braids"
    ).text
    assert "12 wpi finished" in page and "for that gauge" in page and "looser than usual" in page
    assert len(re.findall(r'class="lot-card[ "]', page)) == 4 and " short" in page
    small = demo_http.get("/project?project=hat&size=aran&fibre=lot:unknown-grey-fleece&at=chain").text
    assert "enough, with" in small and "Making a chain ply" in small and "as you said" in small
    opened = re.search(r'href="(/construct/aimed[^"]+)" aria-label="Open chain ply', small)[1].replace("&amp;", "&")
    assert "Unknown grey fleece" in demo_http.get(opened).text


def test_what_is_wrong_stays_typed_beside_its_fault(demo_http):
    refused = demo_http.get("/project?gauge=soft&size=90+tex")
    assert refused.status_code == 422 and 'value="soft"' in refused.text and "is no gauge" in refused.text
    assert "say how thick" in refused.text and 'class="lot-card' not in refused.text
