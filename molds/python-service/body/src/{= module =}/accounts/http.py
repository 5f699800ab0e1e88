"""Signing in and out over HTTP, and who a request is from."""
{= if web == "fastapi" =}

from typing import Annotated

from fastapi import APIRouter, Depends, HTTPException, Request, status
from fastapi.security import HTTPAuthorizationCredentials, HTTPBearer
from pydantic import BaseModel

from ..database import DatabaseSession
from . import storage

router = APIRouter(prefix="/session", tags=["session"])
bearer = HTTPBearer(auto_error=False, description="The token that POST /session gives")
Bearer = Annotated[HTTPAuthorizationCredentials | None, Depends(bearer)]


class Credentials(BaseModel):
    name: str
    password: str


class NewToken(BaseModel):
    token: str
    seconds: int


def writer(session: DatabaseSession, credentials: Bearer) -> storage.Account:
    """The account whose token the request brings."""
    account = storage.account_of(session, credentials.credentials) if credentials else None
    if not account:
        raise HTTPException(
            status.HTTP_401_UNAUTHORIZED,
            "sign in with POST /session, and bring its token",
            {"WWW-Authenticate": "Bearer"},
        )
    return account


Writer = Annotated[storage.Account, Depends(writer)]


@router.post("", status_code=status.HTTP_201_CREATED)
def sign_in(session: DatabaseSession, credentials: Credentials, request: Request) -> NewToken:
    """Give a token for a name and a password."""
    address = request.client.host if request.client else ""
    try:
        token = storage.sign_in(session, credentials.name, credentials.password, address)
    except storage.TooManyAttemptsError as error:
        wait = {"Retry-After": str(storage.ATTEMPT_SECONDS)}
        raise HTTPException(status.HTTP_429_TOO_MANY_REQUESTS, str(error), wait) from None
    if not token:
        raise HTTPException(status.HTTP_403_FORBIDDEN, "the name or the password is wrong")
    return NewToken(token=token, seconds=storage.TOKEN_SECONDS)


@router.delete("", status_code=status.HTTP_204_NO_CONTENT)
def sign_out(session: DatabaseSession, account: Writer, credentials: Bearer) -> None:
    """Make the token that the request brings worthless."""
    if credentials:
        storage.sign_out(session, credentials.credentials)
{= else =}

from typing import Any, NoReturn

from flask import Blueprint, abort, request
from werkzeug.datastructures import WWWAuthenticate

from ..database import session
from . import storage

blueprint = Blueprint("session", __name__, url_prefix="/session")


def writer() -> storage.Account:
    """The account whose token the request brings; without one the answer is 401."""
    token = brought_token()
    account = storage.account_of(session(), token) if token else None
    if not account:
        refuse()
    return account


def brought_token() -> str | None:
    given = request.authorization
    return given.token if given and given.type == "bearer" else None


def refuse() -> NoReturn:
    abort(
        401,
        "sign in with POST /session, and bring its token",
        www_authenticate=WWWAuthenticate("bearer"),
    )


@blueprint.post("")
def sign_in() -> tuple[dict[str, Any], int]:
    """Gives a token for a name and a password."""
    given = request.get_json()
    if not isinstance(given, dict):
        abort(422, "an object is wanted")
    name, password = given.get("name"), given.get("password")
    if not isinstance(name, str) or not isinstance(password, str):
        abort(422, "a name and a password are wanted")
    try:
        token = storage.sign_in(session(), name, password, request.remote_addr or "")
    except storage.TooManyAttemptsError as error:
        abort(429, str(error), retry_after=storage.ATTEMPT_SECONDS)
    if not token:
        abort(403, "the name or the password is wrong")
    return {"token": token, "seconds": storage.TOKEN_SECONDS}, 201


@blueprint.delete("")
def sign_out() -> tuple[str, int]:
    """Makes the token that the request brings worthless."""
    writer()
    storage.sign_out(session(), brought_token() or "")
    return "", 204
{= end =}
