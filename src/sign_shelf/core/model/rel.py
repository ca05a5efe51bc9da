"""Link relations that an `<a>` may carry, each with what it tells, and what a site's policy adds to outside links.

Sources: the HTML Living Standard's link types allowed on `a`, and IANA's link relation registry (RFC 8288).
"""

from dataclasses import dataclass
from typing import Literal

from sign_shelf.core.basics.address import host_of
from sign_shelf.core.model.menu import Link, UrlTarget
from sign_shelf.core.model.site import Particulars

Source = Literal["HTML", "IANA"]


@dataclass(frozen=True)
class Relation:
    name: str
    source: Source
    says: str


RELATIONS: tuple[Relation, ...] = (
    Relation("alternate", "HTML", "Leads to another form of the same content, such as a feed or a translation."),
    Relation("author", "HTML", "Leads to a page about the author, or a way to reach them."),
    Relation("bookmark", "HTML", "Leads to the lasting address of the nearest section."),
    Relation("external", "HTML", "Leads away from this site."),
    Relation("help", "HTML", "Leads to help for this place."),
    Relation("license", "HTML", "Leads to the licence under which the main content may be used."),
    Relation("me", "HTML", "Leads to a page about the same person or body as this one."),
    Relation("next", "HTML", "Leads to the next page of a series."),
    Relation("nofollow", "HTML", "The site does not vouch for where it leads; search engines should not follow."),
    Relation("noopener", "HTML", "A page opened in a new tab gets no hold on the tab that it came from."),
    Relation("noreferrer", "HTML", "The page that it leads to is not told where the visitor came from."),
    Relation("opener", "HTML", "A page opened in a new tab may reach back to the tab that it came from."),
    Relation("prev", "HTML", "Leads to the page before in a series."),
    Relation("privacy-policy", "HTML", "Leads to what the site says about people's data."),
    Relation("search", "HTML", "Leads to a search over this site."),
    Relation("tag", "HTML", "Leads to a page for a subject that this page has."),
    Relation("terms-of-service", "HTML", "Leads to the agreement between the site and its visitors."),
    Relation("about", "IANA", "Leads to what this place is about."),
    Relation("acl", "IANA", "Leads to the rules of who may use this resource."),
    Relation("amphtml", "IANA", "Leads to the reduced form of this page for phones."),
    Relation("appendix", "IANA", "Leads to an appendix of a collection of documents."),
    Relation("archives", "IANA", "Leads to a collection of records of historical interest."),
    Relation("blocked-by", "IANA", "Leads to whoever blocks access to a resource after a legal demand."),
    Relation("canonical", "IANA", "Leads to the preferred address of the same content."),
    Relation("chapter", "IANA", "Leads to a chapter of a collection of documents."),
    Relation("cite-as", "IANA", "Leads to the address that should be used when this content is cited."),
    Relation("collection", "IANA", "Leads to the collection that this page is one of."),
    Relation("contents", "IANA", "Leads to a table of contents."),
    Relation("copyright", "IANA", "Leads to the copyright statement."),
    Relation("create-form", "IANA", "Leads to a form with which a new entry can be made."),
    Relation("current", "IANA", "Leads to the most recent entries of a series."),
    Relation("describedby", "IANA", "Leads to information about this content."),
    Relation("disclosure", "IANA", "Leads to a list of patent disclosures."),
    Relation("duplicate", "IANA", "Leads to the very same content at another address."),
    Relation("edit", "IANA", "Leads to where this content can be edited."),
    Relation("edit-form", "IANA", "Leads to a form with which this content can be edited."),
    Relation("edit-media", "IANA", "Leads to where the media of this content can be edited."),
    Relation("enclosure", "IANA", "Leads to a related file that may be large."),
    Relation("first", "IANA", "Leads to the first page of a series."),
    Relation("glossary", "IANA", "Leads to a glossary of terms."),
    Relation("hub", "IANA", "Leads to a service that tells of updates."),
    Relation("index", "IANA", "Leads to an index."),
    Relation("item", "IANA", "Leads to a member of the collection that this page is."),
    Relation("last", "IANA", "Leads to the last page of a series."),
    Relation("latest-version", "IANA", "Leads to the newest version of this content."),
    Relation("manifest", "IANA", "Leads to the manifest of a web application."),
    Relation("memento", "IANA", "Leads to this content as it was at an earlier time."),
    Relation("monitor", "IANA", "Leads to a resource that tells of changes."),
    Relation("next-archive", "IANA", "Leads to the next archive document."),
    Relation("original", "IANA", "Leads to the content that this one keeps an earlier state of."),
    Relation("payment", "IANA", "Leads to where a payment is taken."),
    Relation("permalink", "IANA", "Leads to the lasting address of this content."),
    Relation("predecessor-version", "IANA", "Leads to the version before this one."),
    Relation("prefetch", "IANA", "Leads to what is likely to be needed next."),
    Relation("preview", "IANA", "Leads to a preview of this content."),
    Relation("previous", "IANA", "Leads to the page before in a series."),
    Relation("prev-archive", "IANA", "Leads to the archive document before this one."),
    Relation("profile", "IANA", "Leads to the conventions that this content follows."),
    Relation("publication", "IANA", "Leads to the publication that this content belongs to."),
    Relation("related", "IANA", "Leads to related content."),
    Relation("replies", "IANA", "Leads to replies to this content."),
    Relation("section", "IANA", "Leads to a section of a collection of documents."),
    Relation("self", "IANA", "Leads to this very content."),
    Relation("service", "IANA", "Leads to a service for this content."),
    Relation("service-desc", "IANA", "Leads to a service description for programs."),
    Relation("service-doc", "IANA", "Leads to a service's documentation for people."),
    Relation("service-meta", "IANA", "Leads to information about a service, for programs."),
    Relation("start", "IANA", "Leads to the first document of a collection."),
    Relation("status", "IANA", "Leads to how well a service is running."),
    Relation("subsection", "IANA", "Leads to a subsection of a collection of documents."),
    Relation("successor-version", "IANA", "Leads to the version after this one."),
    Relation("sunset", "IANA", "Leads to what is said about this content's end."),
    Relation("timegate", "IANA", "Leads to a choice of earlier states of this content."),
    Relation("timemap", "IANA", "Leads to a list of earlier states of this content."),
    Relation("type", "IANA", "Leads to what kind of thing this content is."),
    Relation("up", "IANA", "Leads to the page above in a hierarchy."),
    Relation("version-history", "IANA", "Leads to the history of this content."),
    Relation("via", "IANA", "Leads to the source of this content."),
    Relation("webmention", "IANA", "Leads to where mentions of this content are told."),
    Relation("working-copy", "IANA", "Leads to a working copy of this content."),
    Relation("working-copy-of", "IANA", "Leads to the content of which this is a working copy."),
)  # fmt: skip

KNOWN = {relation.name: relation for relation in RELATIONS}


def leads_outside(url: str, site: Particulars) -> bool:
    """Whether the address belongs to neither the site nor one of its other hosts."""
    host = host_of(url)
    return host != "" and host not in own_hosts(site)


def own_hosts(site: Particulars) -> frozenset[str]:
    """The hosts, with their ports where they name one, that belong to the site."""
    return frozenset({host_of(site.base), *(other.host.lower() for other in site.hosts if other.kind != "client")})


def usual_for_outside(link: Link, site: Particulars) -> Link:
    """The link as the site's policy has its outside links: their tab, and what then belongs in `rel`.

    A link that stays on the site, or a site without such a policy, comes back unchanged.
    """
    policy = site.policy.outside_links
    if policy is None or not isinstance(link.target, UrlTarget) or not leads_outside(link.target.url, site):
        return link
    rel = tuple(dict.fromkeys([*link.rel, *(("noopener",) if policy == "new_tab" else ()), "external"]))
    return link.model_copy(update={"new_tab": policy == "new_tab", "rel": rel})
